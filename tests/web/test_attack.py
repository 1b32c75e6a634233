"""Whatever is sent to any address, upload or the command line: an answer in good time, no traceback, no bare error.

Five hundred inputs in the suite; ``--hypothesis-profile=long`` sends ten thousand. What an answer takes is counted
in seconds of this process, which serves as well, and by the clock, where a machine may stand still once for an address.
"""

import json
import random
import subprocess
import sys
import time
from collections import Counter
from pathlib import Path

import pytest
from hypothesis import settings

from pebble_wheel.demo.lantern_lane import fill
from pebble_wheel.notation.draft import FIELDS, write_draft
from pebble_wheel.store.database import opened
from pebble_wheel.workshop.starts import STARTS, start
from tests.web.test_pages import DESIGN

MOST = 10_000 if settings.get_current_profile_name() == "long" else 500
LONGEST = 5.0

_TYPED = """
0 -1 1e308 1e-323 nan inf -inf 1e999 ½ ٣ 1,5,5 0x10 1_0 | 5 wpi/inf | 1e-323 ym | 3 m inf | 3 m nan | 5 tpi/nan
1200 yd/lb | 12 degC | 2**9 m | ()m <script> %00 ../../etc/passwd yarn.strands[99] yarn yarn.strands[0] S Z merino
22 wpi | ' OR 1=1 --
{ {"yarn":1} null true [] 7:1 1:7 #ffffff #fff 4.5 oz | 120 t/m | 3 in | relaxed card snug dried fibre imperial
"""
ODD = ["", " ", "9" * 400, "x" * 3000, "é" * 300, "[" * 5000, "\x00", "\u202e", "\ufffe"]
ODD += [each.strip() for line in _TYPED.splitlines() for each in (line.split("|") if "|" in line else line.split())]
_ADDRESSES = """
/ /construct /construct/aimed /construct/follow /construct/keep /aim /aim/follow /settings /designs /api/evaluate
/designs/1 /designs/2/finish /designs/2/finish/follow /designs/3/skeins /designs/3/swatches /designs/4/rename
/designs/5/duplicate /designs/1/versions /designs/1/versions/1 /designs/9/records/x/1/y /designs/{odd} /{odd}
/designs/{odd}/small/{odd}.svg /static/{odd}/{odd} /notebook /notebook/import /notebook/restore /devices
/devices/{odd}/revoke /designs/1/records/skein/{odd}/strike
"""
PATHS = _ADDRESSES.split()
_FIELDS = """
q page away draft of at name do move id mark text picture reach hold ask size firm ratio grams metres wraps loop
stitches_before needle garment units rest colours structure pin thinnest wash drying if-size if-angle over
refill together
"""
NAMES = [*_FIELDS.split(), *sorted({field for fields in FIELDS.values() for field in fields})]
INSTEAD = [*ODD, 10**400, 1e308, -1, None, [], {}, True, "\ud800"]


def odd_design(chance: random.Random) -> bytes:
    """A design file with something in it replaced."""
    value = json.loads(json.dumps(DESIGN))
    for _ in range(chance.randint(1, 3)):
        node = value
        while True:
            key = chance.choice(list(node) if isinstance(node, dict) else range(len(node)))
            inner = node[key]
            if isinstance(inner, dict | list) and inner and chance.random() < 0.7:
                node = inner
                continue
            node[key] = chance.choice([*INSTEAD, [inner] * 70, {"a": inner}])
            break
    text = json.dumps(value)
    if chance.random() < 0.3:
        at = chance.randrange(len(text))
        text = text[:at] + chance.choice(["", "\\ud800", "{", "\x00", '"', "NaN", "1e999"]) + text[at + 1 :]
    return text.encode()


def draft(chance: random.Random) -> str:
    text = write_draft(start(chance.choice(list(STARTS))))
    if chance.random() < 0.4:
        at = chance.randrange(len(text))
        text = text[:at] + chance.choice(["", "9", '"', "\\ud800", "{", "inf", "-"]) + text[at + chance.randint(0, 4) :]
    return text


def test_every_address_answers_whatever_it_is_sent(server, http):
    with opened(server.app.state.connections.file) as connection:
        fill(connection)
    chance = random.Random(MOST)
    late: Counter[str] = Counter()
    for number in range(MOST):
        path = address = chance.choice(PATHS)
        while "{odd}" in path:
            path = path.replace("{odd}", chance.choice(ODD)[:60].replace("?", "").replace("#", ""), 1)
        typed = {name: chance.choice(ODD) for name in chance.sample(NAMES, chance.randint(0, 12))}
        if "draft" in typed:
            typed["draft"] = draft(chance)
        file = {"file": ("x", odd_design(chance))}
        headers = {"hx-request": "true"} if chance.random() < 0.5 else {}
        if chance.random() < 0.05:
            headers |= {"origin": chance.choice(["http://[", "null", "x", "https://e"])}
        began, worked = time.monotonic(), time.process_time()
        match chance.randrange(4):
            case 0:
                answer = http.get(_quoted(path), params=typed, headers=headers)
            case 1 | 2 if path not in ("/designs", "/api/evaluate", "/notebook/import"):
                answer = http.post(_quoted(path), data=typed, headers=headers)
            case _ if path == "/api/evaluate":
                answer = http.post(path, content=odd_design(chance), headers=headers)
            case _:
                answer = http.post(_quoted(path), files=file, headers=headers)
        told = f"{number}: {answer.request.method} {path} {typed} -> {answer.status_code}"
        assert answer.status_code < 500, f"{told}: {answer.text[:2000]}"
        assert "Traceback" not in answer.text and time.process_time() - worked < LONGEST, told
        late[address] += time.monotonic() - began > LONGEST
        assert late[address] < 2, told


def _quoted(path: str) -> str:
    return path.encode("utf-8", "surrogatepass").decode("latin-1").replace("\x00", "%00").replace("%", "%25")


ALL_GIVEN = """
import json, sys, time
from pebble_wheel.cli import app
from typer.testing import CliRunner

for each in json.load(sys.stdin):
    began = time.process_time()
    done = CliRunner().invoke(app, each)
    known = done.exception is None or isinstance(done.exception, SystemExit)
    if not known or time.process_time() - began > float(sys.argv[1]):
        print(each, repr(done.exception), done.stderr[-500:])
"""


@pytest.mark.parametrize("share", range(2))
def test_the_command_line_answers_whatever_it_is_given(tmp_path, share):
    """Each in one process of Python, which is begun once: what it costs is not the point here."""
    chance = random.Random(share)
    given = []
    for number in range(MOST // 20):
        file = tmp_path / f"{number}.json"
        file.write_bytes(odd_design(chance))
        iso = chance.choice(["34 tex S 600 x 2 Z 400", "R 69 tex", "()x 3", *ODD])
        options = chance.choice([[], ["--json"], ["--fibre", chance.choice(ODD)]])
        given.append(["evaluate", chance.choice([str(file), iso, str(tmp_path)]), *options])
        given.append(["check", "--db", str(file)])
        given.append(["import", str(file), "--db", str(tmp_path / "a.sqlite3")])
    done = subprocess.run(
        [sys.executable, "-c", ALL_GIVEN, str(LONGEST)],
        input=json.dumps(given),
        capture_output=True,
        text=True,
        timeout=600,
        check=False,
    )
    assert done.returncode == 0 and done.stdout == "", done.stdout[:3000] + done.stderr[:2000]
    assert "Traceback" not in done.stderr and Path(tmp_path / "a.sqlite3").exists()
