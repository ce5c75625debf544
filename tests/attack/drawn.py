"""Requests drawn from the API's own description, right and wrong ones, against the running product."""

from __future__ import annotations

from collections import Counter
from typing import Any

import schemathesis
from hypothesis import HealthCheck, Phase, given, settings

from tests.attack.meanwhile import signed_in
from tests.support.running import RunningProduct


def drawn_requests(product: RunningProduct, count: int) -> Counter[int]:
    """Send so many requests, spread over all operations; return how often each status was answered."""
    statuses: Counter[int] = Counter()
    with signed_in(product) as client:
        headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in client.cookies.items())}
        described = schemathesis.openapi.from_url(f"{product.base}/api/openapi.json", headers=headers)
        operations = [operation.ok() for operation in described.get_all_operations()]  # type: ignore[union-attr]
        asked = [
            candidate for candidate in operations if not (candidate.method == "delete" and candidate.path == "/api/session")
        ]  # which would end it
        for operation in asked:
            _draw(operation, headers, max(1, count // len(asked)), statuses)
    return statuses


def _draw(operation: Any, headers: dict[str, str], count: int, statuses: Counter[int]) -> None:
    @settings(
        max_examples=count,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
        deadline=None,
        database=None,
        derandomize=False,
    )
    @given(case=operation.as_strategy())
    def sent(case: Any) -> None:
        answer = case.call(headers=headers)
        statuses[answer.status_code] += 1
        if answer.status_code >= 500:
            print(operation.method, operation.path, answer.status_code, answer.text[:200], flush=True)

    sent()
