"""At the wheel over HTTP: lines are kept once they are answered for, whatever comes between, and end in the log."""

import json
import random
import re
import signal
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from typer.testing import CliRunner

from pebble_wheel.cli import app
from pebble_wheel.devices.protocol import Line, write_line
from pebble_wheel.devices.sending import send
from pebble_wheel.devices.simulated import Script, simulated
from pebble_wheel.devices.transports import SourceError, lines_from
from pebble_wheel.notation.design import new_design
from pebble_wheel.store import database, designs, records, runs
from pebble_wheel.store.database import opened
from pebble_wheel.web.screens.wheel.countings import Countings
from tests.conftest import client_of

SINGLE = "yarn.strands[0]"


def three_ply():
    spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": 100, "count": 3}
    spun |= {"twist": {"turns_per_m": 140, "direction": "Z"}}
    return new_design("Rope", {"kind": "ply", "strands": [spun], "twist": {"turns_per_m": 160, "direction": "S"}})


@pytest.fixture
def wheel(file, http):
    """A run of the single, begun at 7:1 with drafts of 40 cm; its address."""
    with opened(file) as connection:
        number = designs.keep_new(connection, three_ply())
    answer = http.post(f"/designs/{number}/wheel/runs", data={"strand": SINGLE, "ratio": "7:1", "draft": "40 cm"})
    assert answer.status_code == 303
    return f"/designs/{number}/wheel"


def told(script):
    return "\n".join(write_line(each) for each in simulated(script))


def live(http, wheel):
    with http.stream("GET", f"{wheel}/runs/1/live") as stream:
        for line in stream.iter_lines():
            if line.startswith("data: "):
                return json.loads(line.removeprefix("data: "))
    return None


def test_eight_treadles_at_seven_to_one(http, wheel):
    """140 t/m at 7:1 in 0.4 m is 8 treadles; the way of turning and its slope stand beside it."""
    page = http.get(f"{wheel}?strand={SINGLE}").text
    assert re.search(r'<div class="stand-count"><b>8</b><span>treadles to 40 cm at 7:1</span>', page)
    assert "clockwise, as you see the wheel" in page and 'class="way way-Z"' in page
    assert "one, two, three, four, five, six, seven, eight" in page
    ply = http.get(f"{wheel}?strand=yarn").text
    assert "anticlockwise" in ply and "Leader laid for this direction?" in ply and 'class="way way-S"' in ply


def test_lines_are_answered_for_and_stand_after_a_reload(http, wheel, file):
    answer = http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=12)))
    assert answer.text == f"{len(told(Script(drafts=12)).splitlines()) - 1} 0\n"  # the greeting is no line of the count
    page = http.get(f"{wheel}?strand={SINGLE}").text
    assert '<b id="live-drafts">12</b>' in page and '<b id="live-metres">4.8 m' in page
    assert live(http, wheel)["drafts"] == "12"
    recording = http.get(f"{wheel}/runs/1/lines").text
    assert recording.splitlines() == told(Script(drafts=12)).splitlines()[1:]


def test_what_is_left_of_the_plan_is_told_at_the_pace_so_far(http, wheel):
    """5 m of 100 tex is half a gram; treadled at 60 a minute and 7:1, 140 t/m make 3 m a minute."""
    http.post(wheel.replace("/wheel", "/plan"), data={"want": "metres", "metres": "20 m", "grams-1": "60 g"})
    http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=12, spread=0.0)))
    left = live(http, wheel)["left"]
    metres, grams, minutes = re.fullmatch(r"([\d.]+) m, ([\d.]+) g, (\d+) min to go", left).groups()
    planned = 4.8 + float(metres)
    assert 20 < planned < 24  # a metre of yarn takes a little more of its singles
    assert float(grams) == pytest.approx(float(metres) / 10, rel=0.1)
    assert float(minutes) == pytest.approx(float(metres) / 3, abs=1.0)
    assert live(http, wheel)["left"] in http.get(f"{wheel}?strand={SINGLE}").text
    http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=60, spread=0.0, seed=2)))
    assert live(http, wheel)["left"] == ""


def test_junk_is_counted_and_set_aside(http, wheel):
    chance, lines = random.Random(1), told(Script(drafts=20)).splitlines()
    mixed = [each for line in lines for each in (line, chance.choice(["", "{", '{"t": -1, "turns": 2}', "\x00"]))]
    http.post(f"{wheel}/runs/1/lines", content="\n".join(mixed))
    state = live(http, wheel)
    assert state["drafts"] == "20" and int(state["aside"]) > 8
    assert http.post(f"{wheel}/runs/9/lines", content=lines[1]).status_code == 404
    assert (
        http.post(f"{wheel}/runs/1/lines", content=lines[1], headers={"origin": "http://elsewhere"}).status_code == 403
    )


def test_a_drift_is_alarmed_with_its_remedy(http, wheel):
    http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=26, drift_from=20)))
    state = live(http, wheel)
    assert re.match(r"Too little twist since draft (19|2\d): count 8 treadles again", state["alarm"])
    assert live(http, wheel)["running"]


def test_the_wrong_way_is_told_within_one_draft(http, wheel):
    lines = told(Script(drafts=1, wrong_way=True)).splitlines()
    http.post(f"{wheel}/runs/1/lines", content="\n".join(lines[:5]))
    assert live(http, wheel)["alarm"] == "Stop: the wheel turns the other way."


def test_in_a_pause_there_is_no_alarm(http, wheel):
    http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=26, drift_from=20)) + '\n{"t": 9999, "mark": "stop"}')
    assert live(http, wheel)["alarm"] == "" and not live(http, wheel)["running"]


def test_a_run_ends_in_the_log_and_teaches(http, wheel, file):
    http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=40, spread=0.0)))
    assert http.post(f"{wheel}/runs/1/end").headers["location"].endswith("/log")
    with opened(file) as connection:
        (entry,) = records.samples(connection, 1)
    assert entry.record.turns_per_m == pytest.approx(140, rel=0.01) and entry.record.places == 40
    assert entry.record.pace == pytest.approx(60, rel=0.05)  # as the simulated wheel treadles
    assert "From 1 of" in http.get("/designs/1").text
    http.post(f"{wheel}/runs/1/end")
    with opened(file) as connection:
        assert len(records.samples(connection, 1)) == 1
    assert http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=1))).status_code == 404
    assert live(http, wheel)["ended"]


def test_the_simulated_wheel_ships(http, wheel):
    http.post(f"{wheel}/runs/1/spin", data={"strand": SINGLE})
    assert live(http, wheel)["drafts"] == "12"
    http.post(f"{wheel}/runs/1/spin", data={"strand": SINGLE, "drift": "1"})
    state = live(http, wheel)
    assert state["drafts"] == "24" and "Too little" in state["alarm"]
    again = http.post(f"{wheel}/runs", data={"strand": SINGLE})  # goes on with the run that is open
    assert 'live-drafts">24' in http.get(again.headers["location"]).text


def test_what_makes_no_sense_is_as_usual(http, wheel):
    for query in ("ratio=x&draft=y", "ratio=0&draft=-3 m", "ratio=9e9&draft=9 km", "strand=nowhere"):
        assert http.get(f"{wheel}?{query}").status_code == 200


def test_a_counter_is_sent_from_a_file_by_the_command_line(http, wheel, address, tmp_path):
    recording = tmp_path / "run.ndjson"
    recording.write_text(told(Script(drafts=10)), "utf-8")
    done = CliRunner().invoke(app, ["count", "--from", str(recording), "--to", f"{address}{wheel}/runs/1/lines"])
    assert done.exit_code == 0 and "lines sent" in done.stdout
    assert live(http, wheel)["drafts"] == "10"
    for source, to in (
        ("nothing.ndjson", f"{address}{wheel}/runs/1/lines"),
        (str(recording), "ftp://x"),
        (str(recording), f"{address}/nowhere"),
    ):
        assert CliRunner().invoke(app, ["count", "--from", source, "--to", to]).exit_code == 2
    shown = CliRunner().invoke(app, ["simulate-wheel", "--drafts", "3", "--seed", "4"])
    assert shown.stdout.splitlines() == told(Script(drafts=3, seed=4)).splitlines()
    assert CliRunner().invoke(app, ["simulate-wheel", "--way", "up"]).exit_code == 2


def test_eight_hours_of_counting_are_looked_at_as_quickly_as_one(tmp_path):
    texts = [write_line(each) for each in simulated(Script(drafts=3600)) if isinstance(each, Line)]
    file, countings, took = tmp_path / "yarn.sqlite3", Countings(), []
    database.prepare(file)
    with opened(file) as connection:
        runs.begin(connection, designs.keep_new(connection, three_ply()), SINGLE, 7.0, 400.0, "first")
        run = runs.find(connection, 1)
        for place in range(0, len(texts), 50):
            runs.add(connection, 1, texts[place : place + 50], 0)
            began = time.perf_counter()
            told_so_far = countings.of(connection, run)
            took.append(time.perf_counter() - began)
        assert json.loads(texts[-1])["t"] > 8 * 3600 and len(told_so_far.count.drafts) == 3600
        assert told_so_far == countings.of(connection, run) == Countings().of(connection, run)
    assert np.median(took[-50:]) < 4 * np.median(took[50:100])


def test_twenty_pages_watch_at_once(http, wheel):
    def watched():
        with http.stream("GET", f"{wheel}/runs/1/live") as stream:
            for line in stream.iter_lines():
                if line.startswith("data: ") and json.loads(line.removeprefix("data: "))["drafts"] == "12":
                    return time.monotonic()
        return None

    with ThreadPoolExecutor(20) as pages:
        told_at = [pages.submit(watched) for _ in range(20)]
        time.sleep(1)
        http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=12)))
        answered = time.monotonic()
        late = [each.result(20) - answered for each in told_at]
    assert max(late) < 2  # on a machine that runs other tests besides


def test_a_line_is_sent_though_the_next_is_long_in_coming(http, wheel, address):
    """A wheel that stops: its last line stands before the counter says anything more."""
    stood = []

    def slow():
        yield '{"t": 0, "turns": 0}'
        yield '{"t": 1, "turns": 7}'
        until = time.monotonic() + 5
        while not stood and time.monotonic() < until:
            if http.get(f"{wheel}/runs/1/lines").text.count("\n") == 2:
                stood.append(True)
            time.sleep(0.05)
        raise SourceError("pulled out")

    with pytest.raises(SourceError, match="pulled out"):
        send(slow(), f"{address}{wheel}/runs/1/lines")
    assert stood


def test_sources_are_of_one_shape(tmp_path):
    file = tmp_path / "lines"
    file.write_text("one\ntwo\r\n", "utf-8")
    assert list(lines_from(str(file))) == ["one", "two"]
    for wrong in ("tcp://nowhere", "tcp://127.0.0.1:1", "/dev/no-such-port", str(tmp_path / "none")):
        with pytest.raises(SourceError):
            list(lines_from(wrong))


KILLED = """
import sys
from pathlib import Path
from pebble_wheel.store import runs
from pebble_wheel.store.database import connect
connection = connect(Path(sys.argv[1]))
for number in range(100000):
    runs.add(connection, 1, [f'{{"t": {number}, "turns": {number}}}'], 0)
    print(number, flush=True)
"""


def test_every_line_that_was_answered_for_survives_a_kill(tmp_path):
    file = tmp_path / "yarn.sqlite3"
    database.prepare(file)
    with opened(file) as connection:
        runs.begin(connection, designs.keep_new(connection, three_ply()), SINGLE, 7.0, 400.0, "first")
    writer = subprocess.Popen([sys.executable, "-c", KILLED, str(file)], stdout=subprocess.PIPE, text=True)
    first = [writer.stdout.readline() for _ in range(40)]
    writer.send_signal(signal.SIGKILL)
    answered = [int(line) for line in [*first, *writer.communicate()[0].splitlines(keepends=True)] if line[-1] == "\n"]
    with opened(file) as connection:
        kept = [json.loads(each)["t"] for _, each, _ in runs.lines_after(connection, 1, 0)]
    assert len(answered) >= 40 and kept[: len(answered)] == answered


def test_two_counters_at_once_lose_nothing(http, wheel, address):
    halves = told(Script(drafts=20)).splitlines()[1:]
    with client_of(address) as other:
        for place in range(0, len(halves), 10):
            for client in (http, other):
                client.post(f"{wheel}/runs/1/lines", content="\n".join(halves[place : place + 10]))
    assert live(http, wheel)["metres"].startswith("8 m")


def test_a_hand_and_a_counter_share_a_run(http, wheel):
    """The counter's turns count, the hand's drafts too; turns tapped besides are set aside, and said to be."""
    lines = told(Script(drafts=6)).splitlines()[1:]
    turns = [each for each in lines if "turns" in each]
    for each in turns[:40]:
        http.post(f"{wheel}/runs/1/lines?source=counter-1", content=each)
    http.post(f"{wheel}/runs/1/lines?source=tap-1", content='{"t": 3, "mark": "draft"}')
    http.post(f"{wheel}/runs/1/lines?source=tap-1", content='{"t": 4, "turns": 7}')
    state = live(http, wheel)
    assert state["drafts"] == "1" and "the counter on the wheel counts turns, 1 lines" in state["counters"]
    recording = http.get(f"{wheel}/runs/1/lines").text.splitlines()
    assert len(recording) == 41 and json.loads(recording[-1])["mark"] == "draft"
    assert http.post(f"{wheel}/runs/1/believe?source=tap-1").status_code == 200
    http.post(f"{wheel}/runs/1/lines?source=tap-1", content='{"t": 5, "turns": 14}\n{"t": 6, "turns": 21}')
    assert live(http, wheel)["believed"] == "tap-1" and live(http, wheel)["treadles"].startswith("1 of")
    for wrong in ("source=%20", "source=" + "a" * 41):
        assert http.post(f"{wheel}/runs/1/lines?{wrong}", content=lines[0]).status_code == 422


@pytest.mark.parametrize(("tex", "said"), [(40, "Light brake"), (120, "middling brake"), (400, "firm brake")])
def test_how_strongly_to_take_in_goes_by_size(http, file, tex, said):
    with opened(file) as connection:
        spun = {"kind": "single", "fibre": "corriedale", "prep": "combed", "tex": tex}
        design = new_design("One", spun | {"twist": {"turns_per_m": 200, "direction": "Z"}})
        number = designs.keep_new(connection, design)
    assert said in http.get(f"/designs/{number}/wheel").text


def test_a_run_that_ended_is_played_again(http, wheel):
    http.post(f"{wheel}/runs/1/lines", content=told(Script(drafts=12)))
    http.post(f"{wheel}/runs/1/end")
    page = http.get(f"{wheel}?strand={SINGLE}").text
    address = re.search(r'href="([^"]+replay=1)"', page)[1].replace("&amp;", "&")
    played = http.get(address).text
    assert f'data-live="{wheel}/runs/1/replay"' in played and 'id="treadle"' not in played
    states = [json.loads(line[6:]) for line in http.get(f"{wheel}/runs/1/replay").text.splitlines() if line]
    counts = [int(each["drafts"]) for each in states]
    assert counts == sorted(counts) and counts[-1] == 12 and len(set(counts)) > 8
    assert "2 of 3" in page and "1 of 3" not in page  # the next of three singles
    assert http.get(f"{wheel}/runs/7/replay").status_code == 404


def test_what_to_do_stands_beside_from_leader_to_skein(http, wheel):
    single, ply = (http.get(f"{wheel}?strand={each}").text for each in (SINGLE, "yarn"))
    assert "pin the end to the bobbin" in single and "A broken end" in single and "Lay the leader" in single
    assert "tie it loosely" in ply and "One strand ends" in ply and ">As planned<" in single
    http.post("/tools", data={"kind": "wheel", "name": "Needle eye", "ratios": "6", "orifice": "0.1 mm"})
    assert "will NOT pass the orifice" in http.get(f"{wheel}?strand=yarn").text


def test_where_a_strand_is_parked_is_told_until_it_goes_on(http, wheel):
    http.post(f"{wheel}/runs/1/lines", content='{"t": 0, "turns": 0}\n{"t": 1, "turns": 21}\n{"t": 1, "mark": "stop"}')
    assert live(http, wheel)["parked"].startswith("Parked after draft 0, at 3 of 8 treadles")
    http.post(f"{wheel}/runs/1/lines", content='{"t": 2, "mark": "join"}')
    assert live(http, wheel)["parked"] == ""
