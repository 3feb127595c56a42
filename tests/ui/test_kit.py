import numpy as np
import pytest

from bruiser.ui.kit.fields import Field
from bruiser.ui.kit.live_plot import LivePlot
from bruiser.ui.kit.parts import Readout, Words
from bruiser.ui.kit.rail import Rail, RailStop


def test_long_words_elide_and_keep_the_whole_in_a_tooltip(dressed, qtbot):
    words = Words("a lot with a very long name " * 5, elide=True)
    qtbot.addWidget(words)
    words.resize(120, 20)
    assert words.text().endswith("…")
    assert words.toolTip() == words.words
    words.say("short", "brick")
    assert (words.text(), words.toolTip(), words.property("tone")) == ("short", "", "brick")


def test_a_field_says_what_is_wrong_and_takes_it_back(dressed, qtbot):
    field = Field("Tail drew", "test.field", hint="14 mm")
    qtbot.addWidget(field)
    field.show()
    field.complain("That is no number.")
    assert field.complaint == "That is no number."
    assert field.entry.property("wrong") == "true"
    field.complain("")
    assert field.entry.property("wrong") == "false"
    assert field.entry.accessibleName() == "Tail drew"


def test_a_readout_never_moves_and_tells_its_number(dressed, qtbot):
    readout = Readout("LOAD", "test.load")
    qtbot.addWidget(readout)
    before = readout.sizeHint()
    readout.show_number("12345.67", "kN")
    assert readout.sizeHint() == before
    assert (readout.number, readout.accessibleDescription()) == ("12345.67", "12345.67 kN")
    assert not readout.grab().isNull()


def test_the_rail_lights_up_to_where_the_campaign_has_got(dressed, qtbot):
    rail = Rail((RailStop("one", "One", "F1"), RailStop("two", "Two", "F2")))
    qtbot.addWidget(rail)
    rail.resize(176, 600)
    rail.caption("A campaign with quite a long name indeed")
    rail.wait_for("one", "3 to do", True)
    rail.wait_for("two", "none", False)
    rail.select("two")
    rail.show()
    picture = rail.grab().toImage()
    assert rail.waiting_at("one") == "3 to do"
    assert picture.pixelColor(33, 120) != picture.pixelColor(33, 570)
    wanted = []
    rail.station_wanted.connect(wanted.append)
    rail._turns["one"].click()
    assert wanted == ["one"]


@pytest.mark.parametrize("samples", [0, 1, 3, 50_000])
def test_the_live_plot_takes_any_number_of_samples(dressed, qtbot, samples):
    plot = LivePlot("test.plot")
    qtbot.addWidget(plot)
    plot.resize(600, 300)
    plot.prepare("travel (mm)", "load (kN)", (60.0, 2.0))
    x = np.linspace(0, 150, samples)
    plot.show_siblings([(x, x / 15)] if samples > 1 else [], (8.0, 9.5) if samples > 1 else None)
    plot.show_trace(x, x / 15)
    plot.show()
    (_, right), (_, top) = plot._plot.viewRange()
    assert right >= max(60.0, x.max(initial=0.0))
    assert top >= max(2.0, x.max(initial=0.0) / 15)
