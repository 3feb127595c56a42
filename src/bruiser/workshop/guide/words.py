"""What a guide says beside its numbers: definitions, cautions, what each rating is judged by."""

from __future__ import annotations

from bruiser.core.choice.guide import Definition
from bruiser.core.choice.rating import Rating, RatingLimits, say_bands
from bruiser.core.choice.working_load import ENOUGH_EVENTS

CAUTIONS = (
    "These are comparisons from small samples on one bench. They are no approval for lifting, "
    "rescue, fall protection or climbing: such use follows the local code, the equipment maker's "
    "instructions and a competent, licensed person.",
    "A line under tension stores energy; when it parts, ends, pins and shackles fly along the line "
    "of pull. Stand clear of that line, guard the lane, protect eyes and hands, and unload before "
    "touching.",
    "Constricting knots never go round a limb or any other part of a body; they may have to be "
    "cut.",
    "A quick-release tie is not for persons. A knot that shakes loose when slack needs a backup, "
    "or another knot in its place.",
    "Wet, icy, dirty, worn or sharp-edged use lowers strength further than these tables, unless "
    "that condition was tested.",
    "Cordage that was loaded to failure, or heavily, is retired. Wear inside a rope cannot be "
    "seen.",
)


def security_words(limits: RatingLimits) -> str:
    """What is good and what is poor of every criterion of staying tied."""
    s = limits.security

    def ends(pair: tuple[float, float], unit: str = " %", times: float = 100.0) -> str:
        return f"{times * pair[0]:g}{unit} is good, {times * pair[1]:g}{unit} is poor"

    return (
        f"first slip at {ends(s.onset)}; draw by {100 * s.reference_share:g} % of the rope, "
        f"{ends(s.draw_d, ' d', 1.0)}; share that came out, {ends(s.came_out)}; still tied after "
        f"the cycles, {ends(s.cycles)}; after the shaking, {ends(s.shakes)}"
    )


def definitions(limits: RatingLimits) -> tuple[Definition, ...]:
    """How every figure of the guide is worked out, with the limits used."""
    bands = {rating: say_bands(rating, limits.bands[rating]) for rating in Rating}
    return (
        Definition(
            "Strength kept",
            "Typical strength of the knot over typical strength of the plain rope of the same lot "
            "and condition, both measured on this bench. Knots that outlasted their partner count "
            "as “at least”. The band is that of the lower end of the 95 % interval, not of the "
            f"middle. Where a knot was pulled in several ways the weakest counts. Bands: "
            f"{bands[Rating.STRENGTH]}.",
        ),
        Definition(
            "Stays tied",
            "Grade of the weakest criterion, 0 to 100, straight between poor and good: "
            f"{security_words(limits)}. What was not measured is named and does not count. Bands: "
            f"{bands[Rating.SECURITY]}.",
        ),
        Definition(
            "Opens after load",
            "Chance that the next such knot opens without a tool after it has seen the share of "
            "the plain rope named with it; an ordinal logistic curve through every knot that was "
            f"untied. Bands: {bands[Rating.OPENING]}.",
        ),
        Definition(
            "Quick to tie",
            "Typical time to a right tie, wrong ties on the way included, with the hands named. "
            f"Bands: {bands[Rating.TYING]}.",
        ),
        Definition(
            "Easy to check",
            "Share of knots that an inspector who was not told recognised as right, under their "
            f"own name. Bands: {bands[Rating.CHECKING]}.",
        ),
        Definition(
            "Interval",
            "95 %: the figure lies between these ends with a chance of 95 in 100, given the pulls. "
            "Few pulls make it wide.",
        ),
        Definition(
            "Predicted range",
            "What a knot may keep in a cordage where it was not pulled: 95 % of what the other "
            "knots and cordages leave open, by a model of knots and cordages crossed whose spreads "
            "are integrated over. Each measured cell is predicted from the others as a check, and "
            "where too few agree nothing is predicted. No measurement.",
        ),
        Definition(
            "Could be",
            "The pulls leave open that the knot falls in this worse band: the unfavourable end of "
            "the interval lies there.",
        ),
        Definition(
            "Score",
            "Every rating is turned into 0 to 100 points by the scale printed with the use; the "
            "score is their mean weighted as printed, worked out in each of 10,000 draws from what "
            "the pulls leave open. It is no property of a knot: other weights give another score.",
        ),
        Definition(
            "Chance of being first, likely ranks",
            "In how many of those draws the knot has the highest score, and the ranks that hold "
            "the middle 90 % of them. Knots are tied where neither is ahead in 95 % of the draws; "
            "tied knots share a letter.",
        ),
        Definition(
            "Floor",
            "The load that 95 of 100 such knots exceed, said with 95 % confidence; it takes "
            "strengths to be log-normal and assumes nothing on their spread.",
        ),
        Definition(
            "Working load",
            "By four schools side by side: half the rating; a third of it; the rating times the "
            "measured typical share; the measured floor; each over the design factor that the "
            f"user entered. Taken by default: the floor from {ENOUGH_EVENTS} observed failures on, "
            "else the most cautious of the others. A short list uses one school for all its knots, "
            "and says where that one cannot answer.",
        ),
        Definition(
            "d",
            "Diameter of the cordage. Tails, draws and lengths of cord are given in d.",
        ),
    )
