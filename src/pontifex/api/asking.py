"""Questions that are worked on: asked of the workers, and broken off when whoever asked is gone."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Concatenate, Final, ParamSpec, TypeVar

from fastapi import Depends, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from pontifex.api.answers import etag_of, json_octets_answer
from pontifex.services import DesignService
from pontifex.services.revised import Revised
from pontifex.work import Answer, Task, TaskProgress, Withdrawn, WorkerPool

LONG_S: Final = 120.0  # of computing: others' questions go to other workers meanwhile
P = ParamSpec("P")
S = TypeVar("S")  # a service


@dataclass(frozen=True)
class Asking:
    """Asks the workers on behalf of a request."""

    request: Request

    async def __call__(
        self, question: Callable[Concatenate[S, str, P], object], design_id: str, *args: P.args, **kwargs: P.kwargs
    ) -> Response:
        """Answer with what a service says of a design."""
        return json_octets_answer(await self.answer(question, design_id, *args, **kwargs))

    async def answer(
        self, question: Callable[Concatenate[S, str, P], object], design_id: str, *args: P.args, **kwargs: P.kwargs
    ) -> Answer:
        """Return what a service says of a design. Raise Withdrawn when whoever asks is gone."""
        return await self._answer(Task(question, (design_id, *args), kwargs, design_id))

    async def long_answer(
        self, question: Callable[Concatenate[S, str, P], object], design_id: str, *args: P.args, **kwargs: P.kwargs
    ) -> Answer:
        """Return what a service says of a design, and give it the time of a long question."""
        return await self._answer(Task(question, (design_id, *args), kwargs, design_id, LONG_S))

    def progress(self, question: Callable[..., object], design_id: str) -> TaskProgress | None:
        """Return how far a question has come that somebody waits for; None where nobody does, or it doesn't say."""
        return self._workers.progress(question, design_id)

    async def answer_of(self, question: Callable[..., object], *args: object) -> Answer:
        """Return what is said of something that is in no design. Raise Withdrawn when whoever asks is gone."""
        return await self._answer(Task(question, args, {}))

    async def revised(
        self, question: Callable[Concatenate[S, str, P], Revised[Any]], design_id: str, *args: P.args, **kwargs: P.kwargs
    ) -> Response:
        """Answer with what holds for a state of a design; without a body where whoever asks has it already."""
        same = await self._unchanged(design_id)
        return same or self._tagged(design_id, await self.answer(question, design_id, *args, **kwargs))

    async def design(self, design_id: str) -> Response:
        """Answer with a design as it stands: a small one is written here, so that it waits for no work on others."""
        same = await self._unchanged(design_id)
        if same:
            return same
        written = await run_in_threadpool(self._designs.written_if_small, design_id)
        if written is None:
            return self._tagged(design_id, await self.answer(DesignService.revised, design_id))
        return self._tagged(design_id, Answer(written.result, written.incarnation, written.revision))

    async def _unchanged(self, design_id: str) -> Response | None:
        """Return the empty answer when whoever asks has what holds for the state that stands."""
        standing = await run_in_threadpool(self._designs.standing, design_id)
        tag = etag_of(self.request, design_id, standing.incarnation, standing.revision)
        if tag in self.request.headers.get("if-none-match", ""):
            return Response(status_code=304, headers={"ETag": tag, "Cache-Control": "no-cache"})
        return None

    def _tagged(self, design_id: str, answer: Answer) -> Response:
        tag = etag_of(self.request, design_id, answer.incarnation, answer.revision)
        headers = {"ETag": tag, "Cache-Control": "no-cache"}
        return Response(answer.octets, media_type="application/json", headers=headers)

    async def soon(
        self,
        patience_s: float,
        question: Callable[Concatenate[S, str, P], object],
        design_id: str,
        *args: P.args,
        **kwargs: P.kwargs,
    ) -> Answer | None:
        """Return an answer if it is there soon. Work that has begun goes on, and is there for whoever asks next.

        Nobody waits behind another who asks the same of the design: where many change it, they read the answer anew.
        """
        if self._workers.is_asked(question, design_id):
            return None
        job = self._workers.submit(Task(question, (design_id, *args), kwargs, design_id))
        answer = asyncio.wrap_future(job.future)
        answer.add_done_callback(_seen)
        try:
            return await asyncio.wait_for(asyncio.shield(answer), patience_s)
        except Exception:  # whatever it is: what it is about has been written, and is answered
            self._workers.withdraw_if_waiting(job)
            return None

    @property
    def _designs(self) -> DesignService:
        designs: DesignService = self.request.app.state.designs
        return designs

    @property
    def _workers(self) -> WorkerPool:
        workers: WorkerPool = self.request.app.state.workers
        return workers

    async def _answer(self, task: Task) -> Answer:
        job = self._workers.submit(task)
        answer = asyncio.wrap_future(job.future)
        answer.add_done_callback(_seen)
        gone = asyncio.ensure_future(_gone(self.request))
        try:
            waited_for: set[asyncio.Future[Any]] = {answer, gone}
            await asyncio.wait(waited_for, return_when=asyncio.FIRST_COMPLETED)
            if answer.done():
                return answer.result()
            raise Withdrawn
        finally:
            gone.cancel()
            if not answer.done():
                self._workers.withdraw(job)


def _seen(answer: asyncio.Future[Answer]) -> None:
    """Take note of how work ended that nobody may wait for any more."""
    if not answer.cancelled():
        answer.exception()


async def _gone(request: Request) -> None:
    """Wait until whoever asks closes the connection; the body has been read by then."""
    while (await request.receive())["type"] != "http.disconnect":
        pass


def _asking(request: Request) -> Asking:
    return Asking(request)


Ask = Annotated[Asking, Depends(_asking)]
