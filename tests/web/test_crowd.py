"""Many at once, hard stops and a full disk, on the program as it is run: nothing that was answered is lost."""

import os
import random
import signal
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest
from hypothesis import settings

from pebble_wheel.notation.draft import design_of, write_draft
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import database, designs
from pebble_wheel.workshop.starts import STARTS, start
from tests.conftest import PATIENCE, client_of
from tests.web.test_serving import children, running, sent

LONG = settings.get_current_profile_name() == "long"
ROUNDS = 100 if LONG else 10
WRITERS, EACH = 50, 4


def names(file: Path) -> list[str]:
    database.prepare(file)
    with database.opened(file) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        return [each.design.name for each in designs.shelf(connection)]


def test_nothing_answered_is_lost_whatever_is_killed(tmp_path):
    """Three clients keep yarns while a process is killed at a random moment, round after round."""
    file, kept, chance = tmp_path / "yarn.sqlite3", [], random.Random(12)
    with running("--db", str(file), folder=tmp_path) as (address, program):
        for round_ in range(ROUNDS):

            def keeps(client: int, round_: int = round_) -> None:
                with client_of(address) as http:
                    for number in range(3):
                        name = f"{round_}-{client}-{number}"
                        try:
                            answer = http.post("/construct/keep", data=sent(name))
                        except httpx.TransportError:
                            return
                        if answer.status_code == 303:
                            kept.append(name)

            clients = [threading.Thread(target=keeps, args=(each,)) for each in range(3)]
            for each in clients:
                each.start()
            time.sleep(chance.uniform(0, 0.15))
            os.kill(chance.choice(children(program, 2)), signal.SIGKILL)
            for each in clients:
                each.join()
    assert len(kept) > 2 * ROUNDS and set(kept) <= set(names(file))


def test_fifty_write_at_once_and_none_is_lost_or_sees_an_error(tmp_path):
    file = tmp_path / "yarn.sqlite3"
    with running("--db", str(file), folder=tmp_path) as (address, _):

        def writes(writer: int) -> list[int]:
            each_anew = httpx.Limits(max_keepalive_connections=0)  # none that is hung up just as it is used again
            with httpx.Client(base_url=address, timeout=PATIENCE, limits=each_anew) as http:
                yarns = (sent(f"{writer}-{number}") for number in range(EACH))
                return [http.post("/construct/keep", data=each).status_code for each in yarns]

        with ThreadPoolExecutor(WRITERS) as pool:
            answers = [status for own in pool.map(writes, range(WRITERS)) for status in own]
    assert answers == [303] * (WRITERS * EACH)
    assert sorted(names(file)) == sorted(f"{writer}-{number}" for writer in range(WRITERS) for number in range(EACH))


def test_who_has_gone_is_not_worked_for(tmp_path):
    """A monster that nobody waits for any more holds up nobody."""
    single = {"kind": "single", "fibre": "merino", "prep": "combed", "twist": {"turns_per_m": 300, "direction": "Z"}}
    strands = [{**single, "tex": 20 + place} for place in range(64)]
    yarn = {"kind": "ply", "strands": strands, "twist": {"turns_per_m": 9, "direction": "S"}}
    monster = {"format": "pebble-wheel-design", "version": 1, "name": "Monster", "yarn": yarn}
    with running("--demo", folder=tmp_path, workers=1) as (address, program):
        (worker,) = children(program, 1)
        for _ in range(6):
            with pytest.raises(httpx.ReadTimeout):
                httpx.post(f"{address}/api/evaluate", json=monster, timeout=0.1)
            strands[0]["tex"] += 0.01
        began = time.monotonic()
        assert httpx.post(f"{address}/construct/follow", data=sent("Mane"), timeout=PATIENCE).status_code == 200
        assert time.monotonic() - began < 12  # six of them, each to its limit, would hold it up for 27
        time.sleep(0.5)
        before = spent(worker)
        time.sleep(0.5)
        assert spent(worker) - before < 0.25  # nothing goes on


def spent(process: int) -> float:
    fields = Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


@pytest.mark.skipif(not LONG, reason="takes minutes; of make test-long")
def test_ten_thousand_designs_and_fifty_users_at_once(tmp_path):
    file, kinds = tmp_path / "yarn.sqlite3", list(STARTS)
    database.prepare(file)
    with database.opened(file) as connection:
        for number in range(10_000):
            draft = start(kinds[number % len(kinds)]).model_copy(update={"name": f"Yarn {number}"})
            designs.keep_new(connection, design_of(draft, Settings()), write_draft(draft))
    with running("--db", str(file), folder=tmp_path) as (address, program):
        workers = children(program, 2)
        asked = (
            "/",
            "/?page=200",
            "/?q=corriedale",
            "/designs/77",
            "/designs/78/finish",
            "/aim",
            "/notebook",
            "/settings",
        )

        def visits(user: int) -> float:
            slowest = 0.0
            with httpx.Client(base_url=address, timeout=120) as http:
                for number in range(40):
                    began = time.monotonic()
                    answer = http.get(asked[(user + number) % len(asked)])
                    assert answer.status_code == 200, answer.text[:500]
                    slowest = max(slowest, time.monotonic() - began)
            return slowest

        with ThreadPoolExecutor(50) as pool:
            assert max(pool.map(visits, range(50))) < 20

        def resident() -> int:
            return sum(int(Path(f"/proc/{each}/statm").read_text().split()[1]) for each in workers) * 4096

        def many(count: int) -> None:
            with client_of(address) as http:
                for number in range(count):
                    strand = {"of": "yarn.strands[0]", "at": "yarn.strands[0]", "size": f"{50 + number / 100} tex"}
                    typed = {**sent(f"Mane {number}"), **strand}
                    path = ("/construct/follow", "/aim/follow")[number % 40 == 0]
                    assert http.post(path, data=typed, headers={"hx-request": "true"}).status_code == 200

        many(4000)
        before = resident()
        many(16_000)
        assert resident() < before * 1.1 + 20_000_000
