"""What is loaded before the first station is seen, and before the command line says its help."""

import os
import subprocess
import sys

LATE = {
    "alembic", "jinja2", "jsonschema", "openpyxl", "pint", "PIL", "serial.tools", "weasyprint",
    "scipy.stats", "scipy.optimize", "scipy.interpolate",
    "bruiser.ui.stations.guide.view", "bruiser.ui.stations.results.view",
    "bruiser.ui.stations.plan.view", "bruiser.ui.stations.knots.view",
}  # fmt: skip
WATCHED = """
import sys
from bruiser.app.{module} import main
try:
    code = main({arguments!r})
except SystemExit as ended:
    code = ended.code
print("LOADED", *sorted(sys.modules), file=sys.stderr)
sys.exit(code)
"""


def loaded(tmp_path, module, *arguments):
    script = WATCHED.format(module=module, arguments=list(arguments))
    env = {**os.environ, "HOME": str(tmp_path), "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", script], env=env, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    return set(done.stderr.partition("LOADED")[2].split())


def test_the_window_opens_paints_its_first_station_and_ends(tmp_path):
    found = loaded(tmp_path, "main", "--demo", "--exit-when-shown")
    assert "bruiser.ui.stations.pull.view" in found
    assert found & LATE == set()


def test_the_command_line_says_its_help_without_loading_what_computes(tmp_path):
    found = loaded(tmp_path, "cli", "--help")
    assert not {"numpy", "scipy", "sqlalchemy", "PyQt6"} & found


def test_a_campaign_of_ones_own_is_shown_too(tmp_path, demo_file):
    assert "bruiser.app.window" in loaded(tmp_path, "main", str(demo_file), "--exit-when-shown")
