"""Packages, merging, checking, copies and simulated traces on the command line."""

import json
import subprocess
import sys
from pathlib import Path
from shutil import copyfile

import pytest

from bruiser.app.cli import BAD_INPUT, COULD_NOT, DONE, main
from bruiser.app.cli_parser import make_parser
from bruiser.formats.sheets import read_sheets


def cli(capsys, *arguments):
    code = main([str(a) for a in arguments])
    said = capsys.readouterr()
    return code, said.out.strip(), said.err.strip()


def files_of(folder):
    return {str(p.relative_to(folder)): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def test_export_import_export_gives_the_same_files(usual_file, tmp_path, capsys):
    assert cli(capsys, "export", usual_file, tmp_path / "p")[0] == DONE
    assert cli(capsys, "new", tmp_path / "b.bruiser", "--title", "B")[0] == DONE
    code, out, _ = cli(capsys, "import", tmp_path / "b.bruiser", tmp_path / "p", "--json")
    assert code == DONE
    assert json.loads(out)["rows"]["pull"] > 20
    assert cli(capsys, "export", tmp_path / "b.bruiser", tmp_path / "q")[0] == DONE
    assert files_of(tmp_path / "p") == files_of(tmp_path / "q")
    code, _, err = cli(capsys, "export", tmp_path / "b.bruiser", tmp_path / "q")
    assert (code, err) == (BAD_INPUT, "q is not empty. Name a new folder.")


def test_merging_says_what_came_and_twice_nothing(usual_file, tmp_path, capsys):
    cli(capsys, "new", tmp_path / "b.bruiser", "--title", "B")
    code, out, _ = cli(capsys, "merge", tmp_path / "b.bruiser", usual_file, "--preview", "--json")
    assert (code, json.loads(out)["added"]["lot"]) == (DONE, 5)
    assert "5 lots" in cli(capsys, "merge", tmp_path / "b.bruiser", usual_file)[1]
    assert cli(capsys, "merge", tmp_path / "b.bruiser", usual_file)[1] == (
        "comes in: nothing that is not there"
    )
    code, out, _ = cli(capsys, "backup", tmp_path / "b.bruiser", "--list", "--json")
    assert [b["why"] for b in json.loads(out)] == ["before-merge"]
    assert cli(capsys, "check", tmp_path / "b.bruiser") == (
        DONE, "b.bruiser: sound, every row and trace can be read", ""
    )  # fmt: skip


def test_damage_is_told_by_the_status_and_rescued(usual_file, tmp_path, capsys):
    from tests.store.test_damage import spoil

    spoil(usual_file, "UPDATE tail_draw SET draw_m = -1")
    code, out, _ = cli(capsys, "check", usual_file, "--json")
    found = json.loads(out)
    assert (code, found["sound"]) == (COULD_NOT, False)
    assert found["rows"][0]["table"] == "tail_draw"
    code, out, _ = cli(capsys, "check", usual_file, "--rescue", tmp_path / "r.bruiser")
    assert "lost of tail_draw" in out
    assert cli(capsys, "check", tmp_path / "r.bruiser")[0] == DONE
    assert cli(capsys, "check", tmp_path / "nothing")[0] == BAD_INPUT


def test_a_copy_is_kept_and_put_back_by_name(usual_file, tmp_path, capsys):
    code, out, _ = cli(capsys, "backup", usual_file, "--json")
    name = json.loads(out)["name"]
    code, out, _ = cli(capsys, "backup", usual_file, "--restore", name)
    assert code == DONE
    assert "nothing differs" in out
    code, _, err = cli(capsys, "backup", usual_file, "--restore", "never")
    assert (code, err) == (BAD_INPUT, "There is no copy “never”. --list names them.")


def test_simulated_traces_repeat_by_their_seed_and_say_what_was_true(tmp_path, capsys):
    asked = ("simulate", "--seed", 7, "--count", 2, "--out")
    code, out, _ = cli(capsys, *asked, tmp_path / "a", "--json")
    truth = json.loads(out)
    assert code == DONE
    assert truth["pulls"][0]["gave"] in ("broke", "came_out")
    cli(capsys, *asked, tmp_path / "b")
    assert files_of(tmp_path / "a") == files_of(tmp_path / "b")
    code, out, _ = cli(capsys, "trace", tmp_path / "a" / "pull-001.csv", "--json")
    assert json.loads(out)["peak_n"] == pytest.approx(truth["pulls"][0]["peak_n"], rel=0.02)
    assert cli(capsys, *asked, tmp_path / "a")[0] == BAD_INPUT
    assert cli(capsys, *asked, tmp_path / "c", "--knot", "nonsense")[0] == BAD_INPUT


def test_every_command_shows_an_example_and_the_exit_codes():
    commands = next(a for a in make_parser()._actions if hasattr(a, "choices") and a.choices)
    for name, parser in commands.choices.items():
        said = parser.format_help()
        assert f"bruiser-cli {name} " in said.split("examples:")[1], name
        assert "Exit status: 0 done, 1 could not be done, 2 the input is at fault." in said


def test_a_shell_can_complete_the_commands(capsys):
    code, out, _ = cli(capsys, "completion", "bash")
    assert code == DONE
    assert "--rescue" in out


def test_a_closed_pipe_is_no_traceback(usual_file):
    done = subprocess.run(
        f"{sys.executable} -m bruiser.app.cli check {usual_file} --json | head -c 1",
        shell=True, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.stderr == ""


def test_two_campaigns_that_are_one_file_are_refused(usual_file, tmp_path, capsys):
    copyfile(usual_file, tmp_path / "c.bruiser")
    code, _, err = cli(capsys, "merge", usual_file, usual_file)
    assert (code, err) == (BAD_INPUT, "A campaign is not merged with itself.")


def test_templates_are_written_and_those_of_the_docs_are_the_same(tmp_path, capsys):
    code, out, _ = cli(capsys, "template", tmp_path / "all")
    assert (code, len(out.splitlines())) == (DONE, 3)
    docs = Path(__file__).parents[2] / "docs" / "templates"
    for path in sorted((tmp_path / "all").iterdir()):
        (made,), (kept,) = read_sheets(path), read_sheets(docs / path.name)
        assert made.rows == kept.rows
    assert cli(capsys, "template", tmp_path / "t.csv", "--kind", "grip")[0] == DONE
    assert cli(capsys, "results", tmp_path / "t.csv")[0] == DONE
    assert cli(capsys, "template", tmp_path / "t.csv")[0] != DONE
    assert cli(capsys, "template", tmp_path / "t.doc")[0] == BAD_INPUT
    assert cli(capsys, "template", tmp_path / "u.csv", "--kind", "moon")[0] == BAD_INPUT
    assert "grip" in cli(capsys, "template", "--list")[1]


def test_a_table_comes_in_by_the_command_line_or_not_at_all(tmp_path, capsys):
    campaign, table = tmp_path / "c.bruiser", tmp_path / "t.csv"
    cli(capsys, "new", campaign, "--title", "C")
    table.write_text('rope,dia (mm),knot,peak (N),result\nred,10 mm,plain,"9,250",clear\n')
    code, out, err = cli(capsys, "import", campaign, table)
    assert (code, out) == (BAD_INPUT, "")
    assert "Row 2, column peak (N): “9,250” may be 9.25 or 9250" in err
    mapping = tmp_path / "m.json"
    mapping.write_text(
        json.dumps(
            {
                "columns": {"cordage": "rope", "diameter_mm": "dia (mm)", "knot": "knot",
                            "peak": "peak (N)", "finding": "result"},
                "units": {"peak": "N"}, "decimal": ".",
            }
        )
    )  # fmt: skip
    bring = ("import", campaign, table, "--mapping", mapping)
    code, out, _ = cli(capsys, *bring, "--json", "--preview")
    assert (code, json.loads(out)["pulls"]) == (DONE, 1)
    assert cli(capsys, *bring)[0] == DONE
    assert "plain rope, no estimate, 1 pulls" in cli(capsys, "results", campaign)[1]
    assert "1 were there already" in cli(capsys, *bring)[1]
    code, out, _ = cli(capsys, "export", campaign, tmp_path / "out.xlsx", "--pull-table")
    assert (code, "1 pulls" in out) == (DONE, True)
    assert cli(capsys, "import", campaign, tmp_path / "gone.csv")[0] == BAD_INPUT
    assert cli(capsys, "import", tmp_path / "gone.bruiser", table)[0] == BAD_INPUT
