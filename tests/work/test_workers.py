"""Worker processes: budgets, replacement, who gets which, and what is broken off."""

from __future__ import annotations

import os
import time
from concurrent.futures import CancelledError
from pathlib import Path

import pytest

from pontifex.core.errors import TooLarge
from pontifex.demo import demo_design
from pontifex.services.analyses import AnalysisService
from pontifex.store import DesignNotFound
from pontifex.work import Budget, Task, Withdrawn, WorkerPool, WorkFailed
from tests.support.tasks import computing, counting_up, dying, failing, hoarding, process_number, sleeping

PATIENCE_S = 60
SMALL = Budget(cpu_s=0.3, memory_octets=2**28, wall_s=8)


@pytest.fixture
def small(url):
    """One worker with a small budget, and its spare."""
    pool = WorkerPool(url, SMALL, size=1, largest=lambda id_: f"9 tunnels of {id_}")
    yield pool
    pool.close()


def _asked(pool, question, *arguments, design_id=""):
    return pool.submit(Task(question, arguments, {}, design_id)).future.result(PATIENCE_S).octets


def _until(holds):
    end = time.monotonic() + PATIENCE_S
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.01)


def _has_ended(process):
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except FileNotFoundError:
        return True


@pytest.mark.parametrize("too_much", [counting_up, hoarding, sleeping, dying])
def test_a_task_over_its_budget_ends_with_the_reason(small, too_much):
    """It is told what makes the design large and what is allowed; the worker is replaced, and the next task is answered."""
    before = int(_asked(small, process_number))
    said = r"^more than can be answered at once: 9 tunnels of line: it would take more than 0.3 s of computing and 0.25 GiB"
    with pytest.raises(TooLarge, match=said):
        _asked(small, too_much, design_id="line")
    after = int(_asked(small, process_number))
    assert after != before
    assert _has_ended(before)


def test_computing_without_an_end_is_ended(small, tmp_path):
    """Work that could be interrupted at any time is interrupted when its time is used up."""
    with pytest.raises(TooLarge):
        _asked(small, computing, str(tmp_path / "begun"))


def test_an_error_of_ours_is_told_by_its_kind(small):
    """The worker goes on; its text is for the log alone."""
    before = _asked(small, process_number)
    with pytest.raises(WorkFailed, match=r"^ZeroDivisionError$"):
        _asked(small, failing)
    assert _asked(small, process_number) == before


def test_what_nobody_waits_for_is_broken_off(url, tmp_path):
    """A task that has begun ends within a moment, and its worker, with all that it knows, does the next one."""
    pool = WorkerPool(url, size=1)
    begun = tmp_path / "begun"
    job = pool.submit(Task(computing, (str(begun),), {}, "line"))
    _until(lambda: begun.exists() and begun.read_text())
    waiting = pool.submit(Task(process_number, (), {}, "line"))
    pool.withdraw(waiting)
    with pytest.raises(CancelledError):
        waiting.future.result(PATIENCE_S)
    pool.withdraw(job)
    with pytest.raises(Withdrawn):
        job.future.result(PATIENCE_S)
    assert _asked(pool, process_number, design_id="line") == begun.read_bytes()
    pool.close()
    assert _has_ended(int(begun.read_text()))


def test_a_design_goes_to_the_worker_that_knows_it(url, tmp_path):
    """One at a time for each design, by the same worker; while that one is busy with another, the next one takes over."""
    pool = WorkerPool(url, size=2)
    at_home = {_asked(pool, process_number, design_id="line") for _ in range(20)}
    assert len(at_home) == 1
    busy = pool.submit(Task(computing, (str(tmp_path / "begun"),), {}, "line"))
    _until((tmp_path / "begun").exists)
    behind = pool.submit(Task(process_number, (), {}, "line"))
    assert _asked(pool, process_number, design_id="other") not in at_home
    assert not behind.future.done()
    pool.withdraw(busy)
    assert {behind.future.result(PATIENCE_S).octets} == at_home
    pool.close()


def test_large_designs_leave_room_for_others(url, tmp_path):
    """When all workers are busy for long, spare ones answer what else is asked."""
    pool = WorkerPool(url, size=1)
    pool.submit(Task(computing, (str(tmp_path / "begun"),), {}, "large"))
    _until((tmp_path / "begun").exists)
    assert int(_asked(pool, process_number, design_id="small")) > 0
    pool.close()


def test_workers_answer_from_the_database(workers, designs):
    """What a service says comes as JSON with the state that it holds for; what can't be done, as the same error."""
    id_ = designs.add(demo_design()).id
    answer = workers.submit(Task(AnalysisService.analysis, (id_,), {}, id_)).future.result(PATIENCE_S)
    assert (answer.revision, answer.incarnation) == (0, designs.standing(id_).incarnation)
    assert b'"severity"' in answer.octets
    with pytest.raises(DesignNotFound, match=r"^there is no design 'none'$"):
        workers.submit(Task(AnalysisService.analysis, ("none",), {}, "none")).future.result(PATIENCE_S)


def test_a_worker_knows_no_secret_by_its_environment_or_arguments(small):
    """The address of the database, which holds a password, reaches a worker through its own connection alone."""
    number = int(_asked(small, process_number))
    seen = Path(f"/proc/{number}/environ").read_bytes() + Path(f"/proc/{number}/cmdline").read_bytes()
    assert b"postgresql" not in seen
    assert number != os.getpid()


def test_a_long_task_has_its_own_time_and_keeps_nobody_waiting(url, tmp_path):
    """It works on beyond the budget of others; another question about its design is answered meanwhile."""
    pool = WorkerPool(url, Budget(cpu_s=0.3, wall_s=60), size=2)
    try:
        begun = tmp_path / "begun"
        long = pool.submit(Task(computing, (str(begun),), {}, "line", cpu_s=1000))
        _until(begun.exists)
        assert int(_asked(pool, process_number, design_id="line")) != int(begun.read_text())
        used = Path(f"/proc/{begun.read_text()}/stat")
        _until(lambda: int(used.read_text().rpartition(")")[2].split()[11]) > 100)  # hundredths of a second of computing
        assert not long.future.done()
        pool.withdraw(long)
        with pytest.raises(Withdrawn):
            long.future.result(PATIENCE_S)
    finally:
        pool.close()
