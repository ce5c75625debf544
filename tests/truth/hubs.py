"""Random hubs with several callers: what the product tells of tunnels judged together, against the standards' text.

RFC 7296 section 2.4: INITIAL_CONTACT deletes the other SAs of the same identity. Sections 1.2 and 2.7: IKE_SA_INIT is
answered before any identity is known, so the caller's address alone, and what fits, chooses among a hub's tunnels. RFC 4301
section 4.4.1: of two policies for the same packets one takes them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from random import Random
from typing import Any, Final

from pontifex.core.catalogue import Code
from pontifex.core.findings import analyse
from pontifex.core.kinds import Gateway, Network, Site, Tunnel, Uplink
from pontifex.core.model import Design, apply_operations, put
from pontifex.demo.tunnels import KEY_SALT
from tests.support.designs import TODAY
from tests.truth.ends import AGREED, KE, Proposal, Transform, end_fields
from tests.truth.oracle import negotiated

HUB_ADDRESS: Final = "198.51.100.10"
_LISTS: Final[tuple[tuple[Proposal, ...], ...]] = tuple(
    tuple((("ENCR", 20, bits), ("PRF", 5, None), (KE, group, None)) for bits, group in choice)
    for choice in (((256, 19),), ((128, 14),), ((256, 19), (128, 14)), ((128, 14), (256, 19)), ((256, 20),))
)
_CODES: Final = (Code.HUB_IDENTITY_TWICE, Code.HUB_FIRST_THAT_FITS, Code.HUB_NETWORKS_TWICE, Code.HUB_SAME_NAT)


@dataclass(frozen=True)
class Branch:
    """A caller of the hub, and what the hub has for it."""

    name: str  # its identity
    address: str  # as the outside sees it
    known_address: bool  # the hub has its address as its peer, and not "any"
    own_list: tuple[Proposal, ...]
    hub_list: tuple[Proposal, ...]
    network: str


def draw_hub(random: Random) -> tuple[Branch, ...]:
    """Draw two to four branches that have some things in common."""
    return tuple(
        Branch(
            random.choice(["one", "two", f"b{k}"]),
            random.choice(["203.0.113.9", f"203.0.113.{20 + k}"]),
            random.random() < 0.3,
            random.choice(_LISTS[2:4]),
            random.choice(_LISTS),
            random.choice(["10.65.0.0/24", f"10.66.{k}.0/24", "10.65.0.0/16"]),
        )
        for k in range(random.choice([2, 2, 3, 4]))
    )


def foretell(hub: tuple[Branch, ...]) -> dict[str, frozenset[str]]:
    """What is to be told of each tunnel, by its id."""
    found: dict[str, set[str]] = {f"t{k}": set() for k in range(len(hub))}
    for k, branch in enumerate(hub):
        told = found[f"t{k}"]
        others = [other for j, other in enumerate(hub) if j != k]
        if any(other.name == branch.name for other in others):
            told.add(Code.HUB_IDENTITY_TWICE)
        if branch.known_address and any(other.address == branch.address for other in others):
            told.add(Code.HUB_SAME_NAT)
        if any(other.network == branch.network for other in others):
            told.add(Code.HUB_NETWORKS_TWICE)
        if _decided_by_another(hub, k):
            told.add(Code.HUB_FIRST_THAT_FITS)
    return {id_: frozenset(codes) for id_, codes in found.items()}


def _decided_by_another(hub: tuple[Branch, ...], place: int) -> bool:
    own = hub[place]
    alone = negotiated(own.own_list, own.hub_list, frozenset())
    if alone is None:
        return False
    for other in hub:
        if (other.known_address, other.known_address and other.address) != (own.known_address, own.known_address and own.address):
            continue  # the hub tells them apart by the address that a call comes from
        chosen: frozenset[Transform] | None = negotiated(own.own_list, other.hub_list, frozenset())
        if other is own:
            return False
        if chosen is not None:
            return chosen != alone
    return False


def product_says(hub: tuple[Branch, ...]) -> dict[str, frozenset[str]]:
    """What the findings tell of each tunnel."""
    found = analyse(design_of(hub), TODAY).findings
    ids = [f"t{k}" for k in range(len(hub))]
    return {
        id_: frozenset(finding.code for finding in found if finding.where[0].id == id_ and finding.code in _CODES) for id_ in ids
    }


def _proposals(listed: tuple[Proposal, ...]) -> list[dict[str, Any]]:
    return [{"transforms": [{"type": t, "id": i, "key_length": k} for t, i, k in proposal]} for proposal in listed]


def design_of(hub: tuple[Branch, ...]) -> Design:
    """Return a hub as a design."""
    changes = []
    for branch in hub:
        identity = {"type": "fqdn", "value": f"{branch.name}.skerry.example"}
        peer = branch.address if branch.known_address else "any"
        changes.append(
            {
                "uplink": {"address": branch.address, "address_kind": "behind-nat"},
                "hub": {
                    "remote_identity": identity, "peer_address": peer, "ike_proposals": _proposals(branch.hub_list),
                    "remote_networks": [branch.network],
                },
                "branch": {
                    "local_identity": identity, "ike_proposals": _proposals(branch.own_list), "local_networks": [branch.network],
                },
            }
        )  # fmt: skip
    return hub_with(*changes, lans=False)


def hub_with(*changes: dict[str, Any], lans: bool = True) -> Design:
    """A hub that branches call, with changes to each: fields of the hub's end, of the branch's, and of its uplink."""
    objects: list[Any] = [Site(id="hub", name="Hub"), Gateway(id="hub", site_id="hub", name="hub")]
    objects.append(Uplink.model_validate({"id": "hub", "gateway_id": "hub", "name": "line", "address": HUB_ADDRESS}))
    for k, change in enumerate(changes):
        branch, prefix = f"b{k}", f"10.65.{k}.0/24"
        objects += [Site(id=branch, name=f"Branch {k}"), Gateway(id=branch, site_id=branch, name=branch)]
        uplink = {"id": branch, "gateway_id": branch, "name": "line", "address": f"203.0.113.{k + 1}", "inbound_ike": False}
        objects.append(Uplink.model_validate({**uplink, **change.get("uplink", {})}))
        if lans:
            objects.append(Network.model_validate({"id": branch, "site_id": branch, "name": "lan", "prefix": prefix}))
        identity = {"type": "fqdn", "value": f"{branch}.skerry.example"}
        left = {
            **end_fields("hub", AGREED.left), "role": "wait", "peer_address": "any", "remote_identity": identity,
            "remote_networks": [prefix], "mode": "policy",
        }  # fmt: skip
        right = {
            **end_fields(branch, AGREED.right), "peer_address": HUB_ADDRESS, "local_identity": identity,
            "local_networks": [prefix], "mode": "policy",
        }  # fmt: skip
        ends = {"left": {**left, **change.get("hub", {})}, "right": {**right, **change.get("branch", {})}}
        objects.append(Tunnel.model_validate({"id": f"t{k}", "name": f"Hub–Branch {k}", **ends}))
    empty = Design(id="hub", revision=0, name="hub", key_salt=KEY_SALT)
    return apply_operations(empty, [put(item) for item in objects])


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Return what the standards tell of the hubs of some seeds, and where the product says something else."""
    counts: Counter[str] = Counter()
    found = []
    for seed in seeds:
        hub = draw_hub(Random(seed))
        told, said = foretell(hub), product_says(hub)
        counts.update(code for codes in told.values() for code in codes or ("nothing",))
        if told != said:
            counts["differ"] += 1
            found.append(f"{hub}:\n    the standards: {told}\n    the product: {said}")
    return counts, found
