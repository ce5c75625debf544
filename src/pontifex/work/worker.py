"""A worker process: it has services of its own over the database, and does one task after another."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from functools import cache
from multiprocessing.connection import Connection
from typing import Any, Final, get_args, get_origin, get_type_hints

import structlog
from pydantic import TypeAdapter
from sqlalchemy.exc import DBAPIError

from pontifex.collector import collect_seldom
from pontifex.core.errors import NotDone
from pontifex.core.handover.plan import OnProgress
from pontifex.process import set_up_logging
from pontifex.services import DesignService, KeptDesigns
from pontifex.services.analyses import AnalysisService
from pontifex.services.clouds import CloudService
from pontifex.services.connecting import ConnectingService
from pontifex.services.forms import FormService
from pontifex.services.handover import HandoverService
from pontifex.services.paths import PathsService
from pontifex.services.profiles import ProfileService
from pontifex.services.rehearsals import RehearsalService
from pontifex.services.revised import Revised
from pontifex.services.space import SpaceService
from pontifex.store import DesignListing, DesignRepository
from pontifex.store.database import connect
from pontifex.store.errors import unavailable
from pontifex.store.hand_over import HandOverRecords
from pontifex.work.budget import BrokenOff, Budget, Limits, OverBudget
from pontifex.work.task import Answer, Question, Reply, Task, TaskProgress, WorkFailed

_TOLD_EVERY_S: Final = 0.25


class Services:
    """The services that a worker answers with, by the names of their classes."""

    def __init__(self, database_url: str, on_progress: OnProgress) -> None:
        engine = connect(database_url)
        kept = KeptDesigns(DesignRepository(engine))
        listing = DesignListing(engine)
        self.analyses = AnalysisService(kept, listing)
        designs = DesignService(kept, listing)
        connecting, paths = ConnectingService(kept, self.analyses), PathsService(kept, self.analyses)
        handover = HandoverService(kept, self.analyses, HandOverRecords(engine), on_progress)
        looking = (SpaceService(kept), FormService(kept), RehearsalService(kept, handover), handover)
        asked = (ProfileService(kept, self.analyses), CloudService(kept, self.analyses))
        services = (*asked, self.analyses, paths, connecting, designs, *looking)
        self._by_name = {type(service).__name__: service for service in services}

    def bound(self, question: Question) -> Callable[..., object]:
        """Return a question as it can be asked: a method with its service, any other function as it is."""
        owner, _, name = question.__qualname__.rpartition(".")
        return getattr(self._by_name[owner], name) if owner else question


def work(connection: Connection, database_url: str, budget: Budget, verbose: bool) -> None:
    """Do the tasks that come over a connection until it is closed, or until one of them was over its budget."""
    set_up_logging(verbose)
    services = Services(database_url, _Telling(connection))
    limits = Limits(budget)
    collect_seldom()
    while True:
        try:
            task: Task = connection.recv()
        except EOFError:  # the server is gone
            return
        reply = _replied(services, limits, task)
        connection.send(reply)
        if reply.over_budget:
            os._exit(0)  # whatever it has begun to work out is given up with it


class _Telling:
    """Tells the server how far a task has come, now and then."""

    def __init__(self, connection: Connection) -> None:
        self._connection, self._told_at = connection, 0.0

    def __call__(self, done: int, of: int) -> None:
        now = time.monotonic()
        if now - self._told_at >= _TOLD_EVERY_S:
            self._told_at = now
            self._connection.send(TaskProgress(done, of))


def _replied(services: Services, limits: Limits, task: Task) -> Reply:
    failed_before = services.analyses.failed_checks
    try:
        with limits.task(task.cpu_s):
            answer = _answered(services.bound(task.question)(*task.arguments, **task.named), _kind_of_result(task.question))
    except BrokenOff:
        return Reply(withdrawn=True)
    except (OverBudget, MemoryError):
        return Reply(over_budget=True)
    except NotDone as error:
        return Reply(error=error)
    except Exception as error:
        trouble = unavailable(error, "Nothing of it was done.") if isinstance(error, DBAPIError) else None
        if trouble:
            return Reply(error=trouble)
        structlog.get_logger("work").error(
            "task failed", task=task.name, design=task.design_id, kind=type(error).__name__, exc_info=error
        )
        return Reply(error=WorkFailed(type(error).__name__))
    return Reply(answer, failed_checks=services.analyses.failed_checks - failed_before)


def _answered(result: object, adapter: TypeAdapter[Any]) -> Answer:
    if isinstance(result, bytes):
        return Answer(result)  # written already
    if isinstance(result, Revised):
        return Answer(adapter.dump_json(result.result), result.incarnation, result.revision)
    return Answer(adapter.dump_json(result))


@cache
def _kind_of_result(question: Question) -> TypeAdapter[Any]:
    """Return what writes the results of a question, by what it says that it returns."""
    returned = get_type_hints(question)["return"]
    return TypeAdapter(get_args(returned)[0] if get_origin(returned) is Revised else returned)
