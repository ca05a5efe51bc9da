"""Two servers, four workers and a streaming replica over one database, each on ports of its own: what is lost when one of each is killed
under load, how long reads take meanwhile, and what two servers deliver for their processor time against one."""

import resource
import shutil
import signal
import statistics
import subprocess
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from typing import Any

import httpx
import psycopg

from bench.trees import Row
from bench.world import brackwater, new_database, own_cluster, processor_s
from sign_shelf.demo.cluster import cluster_folder, follow, free_port
from sign_shelf.demo.seed import PASSWORD
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.store.migrate import migrate
from tests.constants import SEALS
from tests.running import answers, command, environment
from tests.waiting import eventually

SITE = "/api/sites/brackwater"
READERS = 2
LASTS_S = 30.0
READS = ("/api/shelf", f"{SITE}/menus/header", "/live/brackwater/header")


@dataclass
class _Machines:
    """What stands in for two machines: servers by their addresses, workers, the database that all share."""

    address: str
    bases: list[str]
    servers: list["subprocess.Popen[bytes]"]
    workers: list["subprocess.Popen[bytes]"]
    again: dict[int, Any]
    key: str
    site: StandIn
    asked: list[str] = field(default_factory=list)


@contextmanager
def _machines() -> Iterator[_Machines]:
    with own_cluster() as (primary, folder), ExitStack() as running:
        address = new_database(primary, "several")
        migrate(address, SEALS)
        replica = follow(primary, cluster_folder(folder / "replica")[0])
        running.callback(replica.stop)
        site, key = running.enter_context(brackwater(address, folder))
        variables = environment(
            address, REPLICA=replica.address("several"), PROCESSES="2", STALLED_AFTER_S="3", HEARTBEAT_S="1"
        )
        ports = [free_port(), free_port()]

        def serve(at: int) -> "subprocess.Popen[bytes]":
            return running.enter_context(command("serve", "--port", str(ports[at]), environment=variables))

        def work() -> "subprocess.Popen[bytes]":
            return running.enter_context(command("worker", environment=variables))

        found = _Machines(
            address, [f"http://127.0.0.1:{port}" for port in ports], [serve(0), serve(1)], [work() for _ in range(4)],
            {0: serve, 1: work}, key, site,
        )  # fmt: skip
        eventually(lambda: all(answers(base) for base in found.bases), within_s=120)
        yield found


class _Client:
    """A browser behind a proxy that knows both servers: where one does not answer, the other is asked."""

    def __init__(self, machines: _Machines) -> None:
        self.machines = machines
        self.clients = [
            httpx.Client(base_url=base, trust_env=False, timeout=15, headers={"origin": base})
            for base in machines.bases
        ]
        self.turn = 0
        answer = self.ask("POST", "/api/session", json={"email": "x@x.example", "password": PASSWORD})
        assert answer.status_code < 300, answer.text
        for client in self.clients:
            client.cookies.update(answer.cookies)

    def ask(self, method: str, url: str, **given: Any) -> httpx.Response:
        until = time.monotonic() + 60
        while True:
            self.turn += 1
            try:
                answer = self.clients[self.turn % 2].request(method, url, **given)
                if answer.status_code not in {502, 503, 504}:
                    return answer
            except httpx.TransportError:
                pass
            assert time.monotonic() < until, f"{url} is answered by neither"


def _load(machines: _Machines, name: str, *, kills: bool) -> list[float]:
    """Readers, and one who edits and puts live, for a while: how long each read took, in ms."""
    ends, took = time.monotonic() + LASTS_S, []

    def read() -> None:
        client = _Client(machines)
        shown = {"authorization": f"Bearer {machines.key}"}
        number = 0
        while time.monotonic() < ends:
            number += 1
            began = time.perf_counter()
            answer = client.ask("GET", READS[number % 3], headers=shown if number % 3 == 2 else {})
            took.append((time.perf_counter() - began) * 1_000)
            assert answer.status_code == 200, answer.text

    def put_live() -> None:
        client = _Client(machines)
        number = 0
        while time.monotonic() < ends:
            number += 1
            bench = client.ask("GET", f"{SITE}/menus/header").json()
            renamed = bench["document"] | {"name": f"{name} {number}"}
            client.ask("PUT", f"{SITE}/menus/header", json=renamed, headers={"if-match": bench["hash"]})
            answer = client.ask("POST", f"{SITE}/releases", headers={"idempotency-key": f"{name} {number}"})
            if answer.status_code == 202:
                machines.asked.append(answer.json()["id"])
            # A person does something else meanwhile.
            time.sleep(0.4)

    threads = [threading.Thread(target=one) for one in [read] * READERS + [put_live]]
    for one in threads:
        one.start()
    if kills:
        for after_s, kind, those in ((6.0, 1, machines.workers), (5.0, 0, machines.servers)):
            time.sleep(after_s)
            those[0].send_signal(signal.SIGKILL)
            those[0].wait()
            time.sleep(2.0)  # until whoever looks after the machine begins it again
            those[0] = machines.again[kind](0) if kind == 0 else machines.again[kind]()
    for one in threads:
        one.join()
    return took


def _ended(machines: _Machines) -> tuple[int, int]:
    """How many releases are live, and how many requests changed something at the site. Raises AssertionError where one is lost or doubled."""
    with psycopg.connect(machines.address, autocommit=True) as looking:
        left = "SELECT count(*) FROM release WHERE state NOT IN ('live', 'failed')"
        eventually(lambda: looking.execute(left).fetchone() == (0,), within_s=120)
        ended = {str(row[0]): str(row[1]) for row in looking.execute("SELECT id, state FROM release")}
        told = dict(
            looking.execute(
                "SELECT detail ->> 'release', count(*) FROM ledger WHERE action IN ('live', 'release failed') GROUP BY 1"
            ).fetchall()
        )
        sent = looking.execute("SELECT count(*) FROM release_step WHERE state = 'verified' AND sends > 0").fetchone()
    assert set(machines.asked) <= set(ended), "one is lost"
    assert told == dict.fromkeys(ended, 1), "one ended twice"
    assert sent == (machines.site.places.writes,), "one was carried out twice at the site"
    return sum(state == "live" for state in ended.values()), machines.site.places.writes


def _delivered(machines: _Machines, which: list[int], *, read: bool) -> tuple[float, float]:
    """Answers per second of the servers' processor time, and the load's own seconds. `read`: each is read from the replica anew."""
    long = f"?page=/{'x' * 2_100}" if read else ""
    before, load = processor_s(machines.servers), resource.getrusage(resource.RUSAGE_CHILDREN)
    runs = [
        subprocess.Popen(
            ["wrk", "-t1", "-c16", "-d4s", "-H", f"Authorization: Bearer {machines.key}", f"{machines.bases[at]}/live/brackwater/header{long}"],
            stdout=subprocess.PIPE, text=True,
        )
        for at in which
    ]  # fmt: skip
    said = [run.communicate()[0] for run in runs]
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    count = sum(int(text.split(" requests in ")[0].split()[-1]) for text in said)
    assert all("Non-2xx" not in text for text in said), said
    own = after.ru_utime + after.ru_stime - load.ru_utime - load.ru_stime
    return count / (processor_s(machines.servers) - before), own


def several_lines() -> Iterator[Row]:
    with _machines() as machines:
        _load(machines, "warm", kills=False)
        quiet = _load(machines, "quiet", kills=False)
        killed = _load(machines, "killed", kills=True)
        live, writes = _ended(machines)
        p95 = [statistics.quantiles(one, n=20)[-1] for one in (quiet, killed)]
        yield (
            "two servers, four workers", f"{len(machines.asked)} releases, one server and one worker killed (kill −9) under load",
            f"none lost, none doubled: {live} live, {writes} writes at the site; reads p95 {p95[1]:.0f} ms", f"the quiet run: {p95[0]:.0f} ms ({p95[1] / p95[0]:.2f}×)",
            "none lost or doubled; p95 < 2×",
        )  # fmt: skip
        if shutil.which("wrk") is None:
            return
        eventually(lambda: all(answers(base) for base in machines.bases), within_s=120)
        for read, says in ((False, "kept in memory"), (True, "each read from the replica")):
            one, both = [], []
            for _ in range(3):  # in turns, so that a slower moment of the machine meets both
                one.append(_delivered(machines, [0], read=read))
                both.append(_delivered(machines, [0, 1], read=read))
            rates = [statistics.median(rate for rate, _ in those) for those in (one, both)]
            yield (
                "delivery by two servers", says, f"{rates[1]:,.0f} answers per second of their processor time ({rates[1] / rates[0]:.2f}×)",
                f"one server: {rates[0]:,.0f}; the load itself took {statistics.median(own for _, own in both):.1f} s of processor time beside them", "≥ 0.9×",
            )  # fmt: skip


if __name__ == "__main__":
    for line in several_lines():
        print(" | ".join(line), flush=True)
