"""Work handed to other machines: a Dask cluster of this one, with workers that die, differ, or are gone."""

import os
import subprocess
import time
from functools import partial
from pathlib import Path

import dask
import pytest
from distributed import LocalCluster
from tests.conftest import how_many, marked
from typer.testing import CliRunner

from uncus.check.checking import look
from uncus.check.looked import Looked
from uncus.check.shares import found_elsewhere
from uncus.cli import checks as _checks  # noqa: F401  (its command)
from uncus.cli.common import app
from uncus.deliver.package import produce
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.sample.frames import frame
from uncus.shop import cluster as handed
from uncus.shop.batch import each
from uncus.shop.cluster import handed_to
from uncus.shop.shop import build

QUIET = {"dashboard_address": ":0", "threads_per_worker": 1, "silence_logs": 50}


@pytest.fixture(scope="module")
def cluster():
    with LocalCluster(n_workers=2, processes=True, **QUIET) as found:
        yield found


def doubled(n):
    if n == 7:
        raise ValueError("seven")
    return 2 * n


def deadly(place, n):
    """Dies of 13, the first time or always; and leaves word of every try."""
    (Path(place) / f"{n}-{time.monotonic_ns()}").touch()
    if n == 13:
        os._exit(1)
    return n


def test_it_works_as_worker_processes_do(cluster):
    with handed_to(cluster.scheduler_address) as make:
        assert make(None).at_once == 4, "two for each of all workers' threads"
        for items in (list(range(60)), [5] * 60):  # equal pieces of work are pieces of their own
            done = list(each(doubled, items, make=make))
            assert sorted(d.item for d in done) == sorted(items)
            assert all(d.result == 2 * d.item if d.item != 7 else d.failure == "seven" for d in done)
        seen = []
        for one in each(doubled, list(range(600)), lambda: len(seen) > 5, make=make):
            seen.append(one)
        assert len(seen) < 600


def test_what_is_produced_and_found_is_the_same_as_here(cluster, once, tmp_path):
    records = once("frame for others", lambda: tuple(marked(frame(2, 2))[0].records.values()))
    job = Job(list(records))
    shop = build(job)

    def held(folder):
        return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}

    only = ("sheets", "nc", "flat")
    with handed_to(cluster.scheduler_address) as make:
        away = produce(job, tmp_path / "away", only=only, make=make, shop=shop, on="2026-11-29")
        found = found_elsewhere(job, make)
    here = produce(job, tmp_path / "here", only=only, shop=shop, on="2026-11-29")
    assert held(tmp_path / "away") == held(tmp_path / "here") and not away.failures
    assert away.packed == here.packed and len(away.files) > 30
    ours = look(Looked(job, shop))
    told = look(Looked(job, build(job)), elsewhere=found)
    assert told.found == ours.found and told.rules == ours.rules
    assert sum(len(things) for things in found.values()) > 1000, "every thing of every rule was looked at there"


def test_from_the_command_line(cluster, once, tmp_path):
    records = once("frame for others", lambda: tuple(marked(frame(2, 2))[0].records.values()))
    Job.create(tmp_path / "j.uncus", records).close()
    more = ["--out", str(tmp_path / "out"), "--only", "nc", "--cluster"]
    done = CliRunner().invoke(app, ["produce", str(tmp_path / "j.uncus"), *more, cluster.scheduler_address])
    assert done.exit_code == 0 and len(list((tmp_path / "out" / "nc").iterdir())) > 10, done.output
    done = CliRunner().invoke(
        app, ["check", str(tmp_path / "j.uncus"), "--json", "--cluster", cluster.scheduler_address]
    )
    assert done.exit_code in (0, 1) and done.stdout.startswith("{"), done.output
    done = CliRunner().invoke(app, ["produce", str(tmp_path / "j.uncus"), *more, "tcp://127.0.0.1:9"])
    assert done.exit_code == 2 and "No Dask scheduler answers" in done.output


@pytest.mark.slow
def test_a_worker_that_dies_costs_its_own_work_only(tmp_path):
    with dask.config.set({"distributed.scheduler.allowed-failures": 0}), LocalCluster(
            n_workers=2, processes=True, **QUIET) as own, handed_to(own.scheduler_address) as make:  # fmt: skip
        items = list(range(how_many(40, 200)))
        done = {d.item: d for d in each(partial(deadly, str(tmp_path)), items, make=make)}
    assert done.keys() == set(items)
    assert {n for n, d in done.items() if d.failure} == {13} and "died" in done[13].failure
    tries = {n: len(list(tmp_path.glob(f"{n}-*"))) for n in items}
    assert all(tries.values()) and max(tries.values()) <= 6


@pytest.mark.parametrize(
    "address", ["", "here", "tcp://", "tcp://h", "tcp://h:x", "http://h:1", "tcp://127.0.0.1:99999"]
)
def test_an_address_that_is_none_is_one_sentence(address):
    if not address:
        with handed_to(address) as make:
            assert make is handed.worker_pool
        return
    with pytest.raises(JobError, match=r"\.$"), handed_to(address):
        pass


def test_other_versions_no_workers_and_open_lines_are_told(cluster, monkeypatch):
    said = []
    monkeypatch.setattr(handed, "__version__", "0.1")
    with (
        pytest.raises(JobError, match=r"runs Uncus .*.* and here is 0\.1 on"),
        handed_to(cluster.scheduler_address),
    ):
        pass
    monkeypatch.undo()
    monkeypatch.setattr(handed, "_LOOPBACK", ())
    with handed_to(cluster.scheduler_address, said.append):
        assert len(said) == 1 and "not encrypted" in said[0]
    with (
        LocalCluster(n_workers=0, processes=True, **QUIET) as empty,
        pytest.raises(JobError, match="has no workers"),
        handed_to(empty.scheduler_address),
    ):
        pass


def test_a_scheduler_that_goes_is_one_sentence_and_nothing_is_left(once, tmp_path):
    records = once("frame for others", lambda: tuple(marked(frame(2, 2))[0].records.values()))
    job = Job(list(records))
    own = LocalCluster(n_workers=1, processes=True, **QUIET)
    try:
        with handed_to(own.scheduler_address) as make:
            own.close(timeout=5)
            with pytest.raises(JobError, match="does not answer any more"):
                produce(job, tmp_path / "out", only=("nc", "sheets"), make=make)
    finally:
        own.close()
    assert not list(tmp_path.iterdir())


def test_over_tls_only_those_with_a_certificate_come_in(tmp_path):
    key, cert = tmp_path / "key.pem", tmp_path / "cert.pem"
    made = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=made up"]
    subprocess.run([*made, "-keyout", str(key), "-out", str(cert)], check=True, capture_output=True)
    at = "distributed.comm.tls"
    settings = {f"{at}.ca-file": str(cert), "distributed.comm.require-encryption": True}
    for name in ("scheduler", "worker", "client"):
        settings |= {f"{at}.{name}.cert": str(cert), f"{at}.{name}.key": str(key)}
    none = {f"{at}.ca-file": None, f"{at}.client.cert": None, f"{at}.client.key": None}
    with dask.config.set(settings), LocalCluster(n_workers=1, processes=False, protocol="tls://", **QUIET) as own:
        with handed_to(own.scheduler_address) as make:
            assert {d.item: d.result for d in each(doubled, [1, 2], few=0, make=make)} == {1: 2, 2: 4}
        with (
            dask.config.set(none),
            pytest.raises(JobError, match="No Dask scheduler answers"),
            handed_to(own.scheduler_address),
        ):
            pass
