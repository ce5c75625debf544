"""The pool of workers: which task goes to which worker, and what becomes of a worker that a task was too much for."""

from __future__ import annotations

import os
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from threading import Condition, Thread
from typing import Final

from pontifex.core.errors import TooLarge
from pontifex.work.budget import Budget
from pontifex.work.process import WorkerProcess
from pontifex.work.task import Answer, Question, Reply, Task, TaskProgress, Withdrawn, WorkFailed

_SPARE_AFTER_S: Final = 0.3  # a task that has waited so long is given to a spare worker
_MOST_HOMES: Final = 1000


@dataclass(eq=False)
class Job:
    """A task that waits or is worked on."""

    task: Task
    future: Future[Answer] = field(default_factory=Future)
    since: float = field(default_factory=time.monotonic)
    process: WorkerProcess | None = None  # that works on it
    is_wanted: bool = True


class WorkerPool:
    """Worker processes, as many as cores, each started when there is work for it.

    A design is worked on by one worker at a time, and by the same one where that is free: what is known of it is kept there.
    A long task keeps nobody from asking something else about its design. As many spare workers take over when all others are
    busy for long, so that one large design leaves room for the others.
    """

    def __init__(
        self,
        database_url: str,
        budget: Budget | None = None,
        size: int | None = None,
        largest: Callable[[str], str] = lambda _: "",
        verbose: bool = False,
    ) -> None:
        """`largest` says what makes a design large, for the answer to a question that is too much at once."""
        self._budget, self._largest = budget or Budget(), largest
        self._start: Callable[[], WorkerProcess] = lambda: WorkerProcess(database_url, self._budget, verbose)
        self._size = size or os.cpu_count() or 1
        self._changed = Condition()
        self._waiting: deque[Job] = deque()
        self._working: dict[int, Job] = {}  # by the number of the worker
        self._home: dict[str, int] = {}  # the worker that has worked on a design last
        self._closed = False
        self.failed_checks = 0  # that ended in an error of ours, since the start
        self._threads = [Thread(target=self._serve, args=(number,), daemon=True) for number in range(2 * self._size)]
        for thread in self._threads:
            thread.start()

    def submit(self, task: Task) -> Job:
        """Give a task to the workers. Its future ends in the answer, or in NotDone, TooLarge, Withdrawn or WorkFailed."""
        job = Job(task)
        with self._changed:
            self._waiting.append(job)
            self._changed.notify_all()
        return job

    def is_asked(self, question: Question, design_id: str) -> bool:
        """Whether a question about a design waits or is worked on already."""
        with self._changed:
            jobs = (*self._waiting, *self._working.values())
            return any((job.task.question, job.task.design_id) == (question, design_id) for job in jobs)

    def progress(self, question: Question, design_id: str) -> TaskProgress | None:
        """Return how far a question about a design has come; None where nobody asks it, or it doesn't say."""
        with self._changed:
            asked = (job for job in self._working.values() if (job.task.question, job.task.design_id) == (question, design_id))
            return next((job.process.progress for job in asked if job.process), None)

    def withdraw(self, job: Job) -> None:
        """Break a task off, since nobody waits for it."""
        with self._changed:
            if not self.withdraw_if_waiting(job):
                job.is_wanted = False
                if job.process:
                    job.process.break_off()

    def withdraw_if_waiting(self, job: Job) -> bool:
        """Give a task up unless it has begun; return whether it hadn't."""
        with self._changed:
            is_waiting = job in self._waiting
            if is_waiting:
                self._waiting.remove(job)
                job.future.cancel()
            return is_waiting

    def close(self) -> None:
        """End all workers, whatever they do."""
        with self._changed:
            self._closed = True
            for job in self._working.values():
                if job.process:
                    job.process.end()
            self._changed.notify_all()
        for thread in self._threads:
            thread.join()

    def _serve(self, number: int) -> None:
        """Work on tasks, one after another, in a process that is started when it is needed."""
        process: WorkerProcess | None = None
        while job := self._next(number):
            try:
                process = process or self._start()
                with self._changed:
                    job.process = process
                reply = process.work(job.task) if job.is_wanted else Reply(withdrawn=True)
            except Exception as error:  # a process that can't be started, or a task that can't be sent
                reply = Reply(error=WorkFailed(type(error).__name__))
            self._end(number, job, reply)
            if process and not process.is_alive:
                process.kill()
                process = None
        if process:
            process.kill()

    def _next(self, number: int) -> Job | None:
        """Wait for a task that this worker may take; None at the end."""
        with self._changed:
            while not self._closed:
                if job := self._taken(number):
                    self._waiting.remove(job)
                    if job.future.set_running_or_notify_cancel():  # from here on nobody else ends it
                        self._working[number] = job
                        return job
                    continue
                spare_is_asked = number >= self._size and self._waiting
                self._changed.wait(_SPARE_AFTER_S if spare_is_asked else None)
        return None

    def _taken(self, number: int) -> Job | None:
        busy = {job.task.design_id for job in self._working.values() if not job.task.is_long} - {""}
        now = time.monotonic()
        for job in self._waiting:
            home = self._home.get(job.task.design_id)
            at_home = home == number or home is None or home in self._working
            old_enough = number < self._size or home == number or now - job.since >= _SPARE_AFTER_S
            if job.task.design_id not in busy and at_home and old_enough:
                return job
        return None

    def _end(self, number: int, job: Job, reply: Reply) -> None:
        with self._changed:
            job.process = None
            del self._working[number]
            if job.task.design_id and not job.task.is_long:
                self._home.pop(job.task.design_id, None)
                self._home[job.task.design_id] = number
                if len(self._home) > _MOST_HOMES:
                    del self._home[next(iter(self._home))]
            self.failed_checks += reply.failed_checks
            self._changed.notify_all()
        if reply.answer:
            job.future.set_result(reply.answer)
        elif reply.withdrawn:
            job.future.set_exception(Withdrawn())
        else:
            job.future.set_exception(self._too_large(job.task) if reply.over_budget else reply.error or WorkFailed("unknown"))

    def _too_large(self, task: Task) -> TooLarge:
        large = self._largest(task.design_id) if task.design_id else ""
        what = f"{large}: " if large else ""
        return TooLarge(f"more than can be answered at once: {what}it would take more than {self._budget}")
