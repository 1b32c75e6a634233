"""No unit but those chosen stands on any screen, in any message or reason, or on the command line."""

import html
import re

import pytest
from typer.testing import CliRunner

from pebble_wheel.cli import app
from pebble_wheel.notation.draft import design_of
from pebble_wheel.notation.settings import UNIT_SETS, Settings, in_units
from pebble_wheel.web.shared.yarn import view_of
from pebble_wheel.wording.display import Display
from pebble_wheel.wording.why import REASONS, why
from pebble_wheel.workshop.starts import STARTS, start
from tests.evaluated import EVALUATOR

INCHES_IN_METRIC = re.compile(
    r"\d[\d.,–]*\s?(?:tpi|yd/lb|yd|oz|lbs?|in(?!\s*[\da-z]))\b|\b(?:tpi|yd/lb|ounces?|pounds?|yards?|inches)\b|US \d"
)
METRIC_IN_INCHES = re.compile(
    r"\d[\d.,–]*\s?(?:mm|cm|m/100 g|t/m|tex|kg|g|m)\b(?!³|/cm³)|\b(?:t/m|metres?|grams?|turns/m|centimetres?)\b"
)
DESIGNATION = re.compile(r"\d tex [ZS] \d|R \d+(\.\d+)? tex")
"""ISO 1139 says twist in turns a metre and size in tex, whoever reads it."""

EACH_SET = pytest.mark.parametrize(
    ("units", "other"), [("metric", INCHES_IN_METRIC), ("imperial", METRIC_IN_INCHES)], ids=["metric", "imperial"]
)

PAGES = [
    *("/", "/aim", "/settings", "/notebook", "/fibre", "/project", "/project?needle=US+7"),
    *(f"/construct?start_from={name}" for name in STARTS),
    *(f"/designs/{number}{part}" for number in range(1, 10) for part in ("", "/finish", "/versions")),
]


def shown(page):
    """What is to be read on a page but for choices, and for what a person typed, which stays as it was typed."""
    for unread in (r"(?s)<(script|style|head|textarea|select)\b.*?</\1>", r'(?s)<span class="part-hint">.*?</span>'):
        page = re.sub(unread, "", page)
    labels = re.findall(r'(?:aria-label|placeholder|title|alt)="([^"]*)"', page)
    lines = [html.unescape(each).strip() for each in [*re.sub(r"<[^>]+>", "\n", page).split("\n"), *labels]]
    return [line for line in lines if line and not DESIGNATION.search(line)]


@EACH_SET
def test_no_other_unit_stands_on_any_page(demo_http, units, other):
    assert demo_http.post("/settings", data={"units": units}).status_code == 303
    read = 0
    for address in PAGES:
        page = demo_http.get(address)
        if address == "/settings" or page.status_code == 303:  # where units are chosen all are named
            continue
        leaks = [line for line in shown(page.text) if other.search(line)]
        assert page.status_code == 200 and not leaks, (address, leaks)
        read += 1
    assert read >= len(PAGES) - 2


KINDS = ("3-ply", "chain", "crepe", "core-spun", "coiled")


@EACH_SET
def test_no_other_unit_stands_in_a_reason(units, other):
    """What is said beside a formula and its source: those are in tex, mm and turns a metre."""
    display = Display(in_units(Settings(), units))
    asked = 0
    for kind in KINDS:
        seen = view_of(EVALUATOR, design_of(start(kind), Settings()), display)
        for key in REASONS:
            for row in seen.rows:
                reason = why(f"{key}@{row.path}", seen.rows, seen.reading, display)
                said = [] if reason is None else [reason.title, reason.words, *(f"{a} {b}" for a, b in reason.inputs)]
                assert not [line for line in said if other.search(line)], key
                asked += reason is not None
    assert asked > 5 * len(REASONS)


@EACH_SET
def test_no_other_unit_stands_in_a_fault(demo_http, units, other):
    demo_http.post("/settings", data={"units": units})
    jammed = {"of": "yarn", "at": "yarn", "name": "x", "by": "turns", "twist": "99 tpi"}
    fault = demo_http.post("/construct/follow", data=jammed, headers={"hx-request": "true"}).text
    said = re.search(r"jam at about [^,]*,", fault)
    assert said and not other.search(said[0])


@EACH_SET
def test_the_command_line_keeps_to_the_units(units, other):
    printed = CliRunner().invoke(app, ["evaluate", "100 tex Z 220 x 3 S 150", "--units", units])
    assert printed.exit_code == 0, printed.output
    own = [line for line in printed.output.split("\n") if not DESIGNATION.search(line)]
    assert not [line for line in own if other.search(line)]
    refused = CliRunner().invoke(app, ["evaluate", "100 tex Z 220 x 3 S 150", "--units", "cubits"])
    assert refused.exit_code == 2 and all(name in refused.output for name in UNIT_SETS)
