"""Decides what the knots station shows: finding, knowing, choosing a variant, comparing."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import pyqtSignal

from bruiser.catalogue import Need, Structure, find_structures, name_clashes
from bruiser.catalogue.drawings import WRONG, bight_is_proven, own_paths, split_key
from bruiser.catalogue.finding import BY_REPUTE
from bruiser.core.records.records import Knot
from bruiser.core.words import count, tail_words
from bruiser.ui.runtime.desk import Desk
from bruiser.ui.runtime.tasks import TaskRunner
from bruiser.ui.stations.knots.beside import Pair, structure_pairs, variant_pairs
from bruiser.workshop.desk import knot_entry
from bruiser.workshop.desk.lot_entry import Checked
from bruiser.workshop.logbook.logbook import Logbook
from bruiser.workshop.logbook.workshop import Workshop


class KnotsPresenter(Desk):
    """One structure at a time, in one variant."""

    found_changed = pyqtSignal()
    shown_changed = pyqtSignal()
    variant_changed = pyqtSignal()

    def __init__(self, workshop: Workshop, tasks: TaskRunner | None = None) -> None:
        super().__init__(workshop)
        self.tasks = tasks
        self.words = ""
        self.family = ""
        self.needs: tuple[Need, ...] = ()
        self.key = ""
        self.other = ""
        self.choices: dict[str, str] = {}

    @property
    def trade(self) -> str:
        """The trade whose names come first."""
        return self.workshop.campaign.trade

    @property
    def catalogue(self) -> dict[str, Structure]:
        """Shipped structures and the campaign's own."""
        return {} if self.logbook is None else self.logbook.catalogue

    @property
    def structure(self) -> Structure | None:
        """The structure shown."""
        return self.catalogue.get(self.key)

    @property
    def knot(self) -> Knot | None:
        """The knot in play, or archived, that is the variant shown."""
        if self.logbook is None or self.structure is None:
            return None
        return knot_entry.knot_of(self.logbook, self.structure, self.choices)

    def take_up(self, logbook: Logbook) -> None:
        """Show the catalogue and the knots in play as they stand."""
        self.logbook = logbook
        if self.structure is None:
            first = logbook.knots_in_play[0].structure if logbook.knots_in_play else ""
            self.key = first if first in logbook.catalogue else next(iter(logbook.catalogue))
            self.choices = dict(logbook.catalogue[self.key].plain)
        self.found_changed.emit()
        self.shown_changed.emit()

    def search(self, words: str) -> None:
        """Find by any name in any trade."""
        self.words = words
        self._narrowed(best=bool(words.strip()))

    def choose_family(self, family: str) -> None:
        """Show one family; empty shows all."""
        self.family = family
        self._narrowed()

    def need(self, need: Need, wanted: bool) -> None:
        """Ask for something it must do, or no longer."""
        rest = tuple(n for n in self.needs if n is not need)
        self.needs = (*rest, need) if wanted else rest
        self._narrowed()

    def _narrowed(self, *, best: bool = False) -> None:
        """Show what was found: the best of it, or the first where what is shown is not among it."""
        keys = [row[0] for row in self.found()]
        if keys and (self.key not in keys or (best and self.key != keys[0])):
            self.show(keys[0])
        self.found_changed.emit()

    def families(self) -> list[tuple[str, str]]:
        """Families to choose from, with how many structures each has."""
        counts: dict[str, int] = {}
        for s in self.catalogue.values():
            for family in s.families:
                counts[family] = counts.get(family, 0) + 1
        return [("", f"every family ({len(self.catalogue)})")] + [
            (f, f"{f} ({n})") for f, n in sorted(counts.items())
        ]

    def found(self) -> list[tuple[str, str, str, str]]:
        """What matches: key, name, other names, and whether it is in play."""
        shown = find_structures(
            self.catalogue.values(),
            self.words,
            self.family,
            self.needs,
            self.trade,
            variants=True,
        )
        knots = self.logbook.knots_in_play if self.logbook is not None else ()
        played = {k.structure for k in knots}
        own = {o.key for o in self.logbook.own_structures} if self.logbook is not None else set()
        rows = []
        for s in shown:
            name = s.name_in(self.trade)
            rest = list(dict.fromkeys(n.name for n in s.names if n.name != name))
            under = ", ".join(rest) if rest else s.family
            mark = "in play" if s.key in played else "own" if s.key in own else ""
            rows.append((s.key, name, under, mark))
        return rows

    def found_words(self) -> str:
        """How many match, and what rests on reputation."""
        count = len(self.found())
        text = f"{count} of {len(self.catalogue)}"
        if any(n in BY_REPUTE for n in self.needs):
            text += "  ·  by repute; your pulls decide"
        return text

    def show(self, key: str) -> None:
        """Show a structure in its plain form."""
        if key and key in self.catalogue:
            self.key = key
            self.choices = dict(self.catalogue[key].plain)
            self.other = ""
            self.shown_changed.emit()

    def choose(self, axis: str, option: str) -> None:
        """Choose an option on an axis of the variant."""
        self.choices[axis] = option
        self.variant_changed.emit()

    def title(self) -> tuple[str, str]:
        """The name in the preferred trade, and what it is."""
        s = self.structure
        if s is None:
            return "Knots", ""
        about = [*s.families]
        if s.ends > 1:
            about.append(f"{s.ends} rope ends")
        about += [count(s.legs, "leg"), "loaded " + ", ".join(s.directions)]
        return s.name_in(self.trade), "  ·  ".join(about)

    def names_by_trade(self) -> str:
        """Every name with its trades, the preferred trade's first."""
        s = self.structure
        if s is None:
            return ""
        trades: dict[str, list[str]] = {}
        for n in s.names:
            trades.setdefault(n.name, []).append(n.trade)
        mine = [x for x in trades.items() if self.trade in x[1]]
        rest = [x for x in trades.items() if self.trade not in x[1]]
        said = [f"{name} ({', '.join(t)})" for name, t in [*mine, *rest]]
        said += [f"{name} (a variant)" for name in s.variant_names]
        return "  ·  ".join(said)

    def clashes(self) -> str:
        """Names of it that mean another structure elsewhere."""
        s = self.structure
        if s is None:
            return ""
        return "\n".join(
            f"“{c.name}” means another knot in {c.other_trade}: {self.name_of(c.other, c.name)}."
            for c in name_clashes(s, self.catalogue)
        )

    def name_of(self, key: str, unlike: str = "") -> str:
        """The name of another structure; not the one called `unlike` where it has another."""
        base, choices = split_key(key)
        s = self.catalogue[base]
        if WRONG in choices:
            return f"{s.name_in(self.trade)}, tied wrongly"
        if choices:
            return f"{s.name_in(self.trade)}, {s.variant_words(choices)}"
        name = s.name_in(self.trade)
        if name != unlike:
            return name
        other = (n.name for n in s.names if n.name != unlike)
        return next(other, f"{name} ({s.family})")

    def facts(self) -> list[tuple[str, str]]:
        """What it needs and is said to do."""
        s = self.structure
        if s is None:
            return []
        computed = " (computed)" if bight_is_proven(s.key) else ""
        facts = [
            ("needs an end", s.needs_end.value + computed),
            ("tied in the bight", s.in_the_bight.value + computed),
            ("round a closed ring", s.closed_ring.value),
            ("slippery cord, by repute", s.slippery.value),
            ("opens, by repute", s.opens.value),
        ]
        if s.host is not None:
            host = f"{s.host.material}, D/d {s.host.d_over_d:g} or more"
            facts.append(("host", host))
        return facts

    def variant_title(self) -> str:
        """The variant in words."""
        s = self.structure
        if s is None:
            return ""
        words = s.variant_words(self.choices)
        return s.name_in(self.trade) if words == "plain" else f"{s.name_in(self.trade)}, {words}"

    def option_notes(self) -> str:
        """What the chosen options say of themselves."""
        s = self.structure
        return "" if s is None else " ".join(o.note for o in s.chosen(self.choices) if o.note)

    def cord_words(self) -> str:
        """Cord and tail of the variant in diameters, the measured figure beside the catalogue's."""
        s, logbook = self.structure, self.logbook
        if s is None or logbook is None:
            return ""
        use, _ = knot_entry.variant_cord(logbook, s, self.choices)
        rule = s.cord_rule(self.choices)
        text = (
            f"Takes {use.catalogue_d:g} d of cord by the catalogue; "
            f"{tail_words(rule.tail_usual_d, rule.tail_floor_d)}."
        )
        if use.measured_d is not None and use.spread_d is not None:
            return text + (
                f" Measured: {use.measured_d:.1f} d from {use.count} knots "
                f"(spread {use.spread_d:.1f} d); cut lists use this."
            )
        if use.count:
            return (
                text
                + f" {count(use.count, 'knot')} measured; from three on the figure is corrected."
            )
        return text + " None measured yet."

    def cord_table(self) -> list[tuple[str, ...]]:
        """Cord and tails in every lot: lot, diameter, cord, as measured, tail, tail floor."""
        s, logbook = self.structure, self.logbook
        if s is None or logbook is None:
            return []
        say = self.units.length_text
        _, rows = knot_entry.variant_cord(logbook, s, self.choices)
        return [
            (
                row.lot.name,
                self.units.section_text(row.lot.diameter_m, row.lot.thickness_m),
                say(row.catalogue_m),
                "" if row.measured_m is None else say(row.measured_m),
                say(row.tail_usual_m),
                say(row.tail_floor_m),
            )
            for row in rows
        ]

    def lots(self) -> list[tuple[str, str]]:
        """Lots to choose from."""
        return [(x.id, x.name) for x in self.logbook.lots_in_use] if self.logbook else []

    def bring_into_play(self) -> None:
        """Bring the variant into play."""
        s, logbook = self.structure, self.logbook
        if s is not None and logbook is not None:
            self.attempt(
                lambda: knot_entry.bring_into_play(self.workshop, logbook, s, self.choices)
            )

    def archive(self) -> None:
        """Take the variant out of the way."""
        knot = self.knot
        if knot is not None:
            self.attempt(lambda: knot_entry.archive(self.workshop, knot))

    def delete(self) -> None:
        """Delete the variant from the campaign, if nothing depends on it."""
        knot = self.knot
        if knot is not None:
            self.attempt(lambda: knot_entry.drop(self.workshop, knot))

    def store_cord(self, texts: Mapping[str, str]) -> Checked:
        """Note the cord one tied knot took."""
        logbook, knot = self.logbook, self.knot
        if logbook is None or knot is None:
            return Checked({"cord": "Bring the variant into play first."})
        return self.store_form(lambda: knot_entry.store_cord(self.workshop, logbook, knot, texts))

    def others(self) -> list[tuple[str, str]]:
        """Structures to compare with: look-alikes first."""
        s = self.structure
        if s is None:
            return []
        alike = [x.structure for x in s.look_alikes]
        rest = [k for k in self.catalogue if k != s.key and k not in alike]
        rest.sort(key=lambda k: self.name_of(k).lower())
        return [
            *((k, f"{self.name_of(k)} (look-alike)") for k in alike),
            *((k, self.name_of(k)) for k in own_paths(s.key)),
            *((k, self.name_of(k)) for k in rest),
        ]

    def compare_with(self, key: str) -> None:
        """Set another structure beside this one."""
        self.other = key
        self.variant_changed.emit()

    def pairs(self) -> list[Pair]:
        """The two structures line by line."""
        base, choices = split_key(self.other)
        one, two = self.structure, self.catalogue.get(base)
        if one is None or two is None:
            return []
        names = self.name_of(one.key), self.name_of(self.other)
        return (
            variant_pairs(one, choices, names) if one is two else structure_pairs(one, two, names)
        )

    def own_texts(self) -> dict[str, str]:
        """The structure as the form for one's own shows it."""
        if self.logbook is None or self.structure is None:
            return {}
        return knot_entry.structure_texts(self.logbook, self.key)

    @property
    def is_own(self) -> bool:
        """Whether the structure is the campaign's own, or an adapted one."""
        own = self.logbook.own_structures if self.logbook is not None else ()
        return any(o.key == self.key for o in own)

    def store_own(self, texts: Mapping[str, str], *, adapt: bool, anyway: bool = False) -> Checked:
        """Store an adapted or a new structure and show it."""
        logbook = self.logbook
        if logbook is None:
            return Checked()
        based_on = self.key
        checked = self.store_form(
            lambda: knot_entry.store_structure(
                self.workshop, logbook, texts, based_on, adapt=adapt, anyway=anyway
            )
        )
        if checked.stored:
            self.show(checked.stored)
        return checked

    def drop_own(self) -> None:
        """Take back an own or adapted structure."""
        logbook = self.logbook
        if logbook is not None:
            key = self.key
            self.attempt(lambda: knot_entry.drop_structure(self.workshop, logbook, key))
