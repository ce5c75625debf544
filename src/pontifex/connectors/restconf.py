"""A gateway by RESTCONF (RFC 8040): the datastores of RFC 8527, and the operations of NETCONF (RFC 6241) beside them.

What is entered goes into the candidate, is validated, and runs by a confirmed commit (RFC 6241 section 8.4).
"""

from __future__ import annotations

import ssl
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from types import TracebackType
from typing import Any, Final

import httpx

from pontifex.connectors.connector import DeviceAccess, DeviceChange, DeviceRefused, DeviceSilent
from pontifex.connectors.pinned import trusting
from pontifex.core.handover.readings import Reading
from pontifex.core.handover.renderings.gateway_module import CONTAINER, NoSuchResource, body_of, resource_of, settings_of

_TIMEOUT_S: Final = 10.0
_MOST_OCTETS: Final = 4_000_000
_MEDIA_TYPE: Final = "application/yang-data+json"
_STORES: Final = "/restconf/ds/ietf-datastores:"
_OPERATIONS: Final = "/restconf/operations/"


class RestconfConnector:
    """One gateway that speaks RESTCONF with the product's own module for tunnels."""

    def __init__(self, gateway_id: str, access: DeviceAccess, trusted_certificate: str) -> None:
        """Reach the device that shows exactly this certificate (PEM)."""
        self._gateway_id, self._persist = gateway_id, f"pontifex {gateway_id}"
        self._client = httpx.AsyncClient(
            base_url=f"https://{access.address}",
            auth=(access.user, access.secret),
            verify=trusting(trusted_certificate),
            timeout=_TIMEOUT_S,
            headers={"Accept": _MEDIA_TYPE, "Content-Type": _MEDIA_TYPE},
            follow_redirects=False,
            trust_env=False,
        )

    async def __aenter__(self) -> RestconfConnector:
        return self

    async def __aexit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        await self._client.aclose()

    async def read(self) -> Reading:
        """Return what the device runs and what its startup datastore holds."""
        return Reading(
            gateway_id=self._gateway_id,
            taken_at=datetime.now(UTC),
            source="RESTCONF",
            running=await self._settings("running"),
            after_restart=await self._settings("startup"),
        )

    async def _settings(self, datastore: str) -> dict[str, str]:
        answer = await self._asked("GET", f"{_STORES}{datastore}/{CONTAINER}")
        if len(answer.content) > _MOST_OCTETS:
            raise DeviceRefused("it answers with more than a gateway can hold")
        try:
            document = answer.json()
            return settings_of(document if isinstance(document, Mapping) else {}, self._gateway_id)
        except ValueError as error:  # NoSuchResource is one
            reason = str(error) if isinstance(error, NoSuchResource) else "its answer is cut off, or no JSON"
            raise DeviceRefused(reason) from None

    async def try_out(self, changes: Sequence[DeviceChange]) -> tuple[str, ...]:
        """Enter changes into the candidate, have it validated, and discard it."""
        await self._enter(changes)
        await self._operation("ietf-netconf:discard-changes")
        return tuple(
            f"DELETE {resource_of(change.path)}" if change.value is None else f"PUT {resource_of(change.path)}: {change.value}"
            for change in changes
        )

    async def apply(self, changes: Sequence[DeviceChange], confirm_within_s: int) -> None:
        """Enter changes into the candidate, have it validated, and commit it until it is confirmed."""
        await self._enter(changes)
        given = {"confirmed": [None], "confirm-timeout": confirm_within_s, "persist": self._persist}
        await self._operation("ietf-netconf:commit", given)

    async def _enter(self, changes: Sequence[DeviceChange]) -> None:
        await self._operation("ietf-netconf:discard-changes")
        for change in changes:
            resource = f"{_STORES}candidate/{resource_of(change.path)}"
            if change.value is None:
                await self._asked("DELETE", resource, gone_is_fine=True)
            else:
                await self._asked("PUT", resource, body_of(change.path, str(change.value)))
        await self._operation("ietf-netconf:validate", {"source": {"candidate": [None]}})

    async def confirm(self) -> None:
        """Let stay what was committed, maybe over another connection."""
        await self._operation("ietf-netconf:commit", {"persist-id": self._persist})

    async def save(self) -> None:
        """Copy what runs into the startup datastore."""
        await self._operation("ietf-netconf:copy-config", {"target": {"startup": [None]}, "source": {"running": [None]}})

    async def restart(self) -> None:
        """Restart the device (RFC 7317 section 3.5)."""
        await self._operation("ietf-system:system-restart")

    async def ping(self, source: str, destination: str) -> str:
        """Refuse: no published model has an operation that tries an address."""
        raise DeviceRefused(f"it can't be asked over RESTCONF to try {destination} from {source}; type what was seen")

    async def _operation(self, name: str, given: Mapping[str, Any] | None = None) -> None:
        module = name.partition(":")[0]
        await self._asked("POST", f"{_OPERATIONS}{name}", {f"{module}:input": given} if given else None)

    async def _asked(self, method: str, path: str, body: object = None, *, gone_is_fine: bool = False) -> httpx.Response:
        try:
            answer = await self._client.request(method, path, json=body)
        except (httpx.TransportError, ssl.SSLError) as error:
            raise DeviceSilent(_why(error)) from None
        if answer.is_success or (gone_is_fine and answer.status_code == 404):
            return answer
        raise DeviceRefused(_told(answer))


def _why(error: Exception) -> str:
    if "CERTIFICATE_VERIFY_FAILED" in str(error):
        return "it shows another certificate than the one that was compared; whoever changed it can tell the new fingerprint"
    if isinstance(error, httpx.TimeoutException):
        return f"no answer within {_TIMEOUT_S:g} s"
    return "the connection can't be made" if isinstance(error, httpx.ConnectError) else "the connection broke off"


def _told(answer: httpx.Response) -> str:
    """Return why the device refuses (RFC 8040 section 7.1)."""
    if answer.status_code in (401, 403):
        return "it doesn't let this user in"
    try:
        errors = answer.json()["ietf-restconf:errors"]["error"]
        return "; ".join(str(error.get("error-message") or error["error-tag"])[:200] for error in errors[:5])
    except (ValueError, KeyError, TypeError, AttributeError):
        return f"it answers with status {answer.status_code}"
