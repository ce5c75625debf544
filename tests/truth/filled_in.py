"""Forms as partners fill them in, drawn in many styles, read back, and judged as texts of proposals are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from random import Random
from typing import Any, Final

from pontifex.core.addressing import parse_prefix
from pontifex.core.forms import read_form
from pontifex.core.kinds import AuthMethod, Identity, IdentityType, Mode, Technology
from tests.truth.written import ASKED, RIGHT, WRONG, Meant, draw, render, understood_of

OURS: Final = ("10.64.0.0/14", "198.51.100.0/24")
_THEIRS: Final = ("10.90.4.0/24", "10.90.5.0/25", "192.168.77.0/24", "172.20.0.0/16")
_NETWORKS: Final = ("10.64.8.0/23", "10.64.0.0/22", "10.65.0.0/24")
_OWN: Final = (("Our", "Your"), ("Local", "Remote"), ("Partner", "Customer"), ("Our side", "Your side"), ("Unsere", "Ihre"))
_MASKS: Final = {
    "/24": "255.255.255.0",
    "/25": "255.255.255.128",
    "/22": "255.255.252.0",
    "/23": "255.255.254.0",
    "/16": "255.255.0.0",
}


@dataclass(frozen=True)
class MeantForm:
    """What a form means: algorithms and lifetimes, and some of the other fields of the partner's end."""

    crypto: Meant
    fields: dict[str, Any]


def draw_form(random: Random) -> MeantForm:
    """Draw what a partner's form says."""
    crypto = draw(random)
    while not (crypto.ike and crypto.child):
        crypto = draw(random)
    fields: dict[str, Any] = {
        "peer_address": random.choice(("198.51.100.10", "198.51.100.77")),
        "local_networks": tuple(random.sample(_THEIRS, random.choice((1, 2, 3)))),
        "remote_networks": tuple(random.sample(_NETWORKS, random.choice((1, 2)))),
    }
    more: dict[str, Any] = {
        "local_identity": random.choice(("vpn.tarn.example", "203.0.113.77")),
        "remote_identity": random.choice(("harbour.skerry.example", "198.51.100.10", "noc@skerry.example")),
        "technology": random.choice((Technology.IPSEC_IKEV2, Technology.IPSEC_IKEV1)),
        "remote_auth": AuthMethod.PRE_SHARED_KEY,
        "dead_peer_s": random.choice((10, 30, 60)),
        "mode": random.choice((Mode.POLICY, Mode.ROUTE)),
        "tcp_mss": random.choice((1350, 1360)),
    }
    fields |= {name: value for name, value in more.items() if random.random() < 0.6}
    return MeantForm(crypto, fields)


def render_form(form: MeantForm, random: Random) -> str:
    """Write a form in a style: its lines in an order, with labels, sides and separators of the writer's own."""
    mark = random.choice((": ", " : ", "\t", " = ", ":  ", "   "))
    own, far = random.choice(_OWN)
    blocks = [_address(random, own, far, mark, form), *_networks(random, own, far, mark, form)]
    blocks += [line for name in form.fields for line in _line(random, name, form.fields[name], own, far, mark)]
    blocks += random.sample(
        [f"Contact{mark}Nils Berg", f"Company{mark}Tarn Port Authority", f"NAT-T{mark}yes", f"Remarks{mark}none"], 2
    )
    random.shuffle(blocks)
    at = random.randrange(len(blocks) + 1)
    title = random.choice(("VPN form", "Site-to-site VPN parameters", ""))
    crypto = render(form.crypto, random)
    return "\n".join([title, *blocks[:at], crypto, *blocks[at:]])


def _address(random: Random, own: str, far: str, mark: str, form: MeantForm) -> str:
    title = random.choice(("gateway", "public IP", "VPN gateway", "Gateway IP", "endpoint", "gateway address"))
    lines = [f"{own} {title}{mark}203.0.113.77", f"{far} {title}{mark}{form.fields['peer_address']}"]
    return "\n".join(lines if random.random() < 0.7 else reversed(lines))


def _networks(random: Random, own: str, far: str, mark: str, form: MeantForm) -> list[str]:
    title = random.choice(("networks", "subnets", "encryption domain", "LAN", "protected networks", "subnet(s)"))
    return [_listed(random, f"{own} {title}", mark, form.fields["local_networks"]),
            _listed(random, f"{far} {title}", mark, form.fields["remote_networks"])]  # fmt: skip


def _listed(random: Random, label: str, mark: str, prefixes: tuple[str, ...]) -> str:
    written = [_prefix(random, prefix) for prefix in prefixes]
    ways = [f"{label}{mark}{', '.join(written)}", f"{label}{mark}{'; '.join(written)}"]
    ways.append("\n".join((f"{label}:", *(f"  {text}" for text in written))))
    ways.append("\n".join((f"{label}{mark}{written[0]}", *(f"  - {text}" for text in written[1:]))))
    return random.choice(ways)


def _prefix(random: Random, prefix: str) -> str:
    address, _, length = prefix.partition("/")
    return random.choice((prefix, prefix, f"{address} {_MASKS['/' + length]}", f"{address}/{_MASKS['/' + length]}"))


def _line(random: Random, name: str, value: Any, own: str, far: str, mark: str) -> list[str]:
    """Write one of the other fields."""
    version = "2" if value is Technology.IPSEC_IKEV2 else "1"
    ways = {
        "local_identity": (f"{own} ID{mark}{value}", f"{own} identity{mark}{value}", f"{own} IKE ID{mark}{value}"),
        "remote_identity": (f"{far} ID{mark}{value}", f"{far} identity{mark}{value}"),
        "technology": (f"IKE version{mark}{version}", f"IKE version{mark}IKEv{version}", f"Version{mark}v{version}"),
        "remote_auth": (f"Authentication method{mark}Pre-shared key", f"Auth{mark}PSK", f"Auth method{mark}shared secret"),
        "dead_peer_s": (f"DPD{mark}{value} s", f"Dead peer detection{mark}{value} seconds", f"DPD interval{mark}{value}"),
        "mode": (f"Tunnel type{mark}{value.value}-based", f"Mode{mark}{value.value} based") if isinstance(value, Mode) else (),
        "tcp_mss": (f"TCP MSS{mark}{value}", f"MSS clamping{mark}{value}"),
    }  # fmt: skip
    return [random.choice(ways[name])] if ways.get(name) else []


def outcome(text: str, form: MeantForm, ours: tuple[str, ...]) -> str:
    """Return how a form came out."""
    read = read_form(text, [parse_prefix(our) for our in ours])
    if not read.is_clear:
        return ASKED
    return RIGHT if _differing(form, read.fields) == {} else WRONG


def _differing(form: MeantForm, fields: dict[str, Any]) -> dict[str, Any]:
    """Return the fields that came out otherwise than they were meant."""
    said = understood_of(fields.get("ike_proposals", ()), fields.get("child_proposals", ()))
    crypto = {**said, **{name: fields.get(name) for name in ("ike_lifetime_s", "child_lifetime_s")}}
    found = {name: value for name, value in crypto.items() if form.crypto.says()[name] != value}
    for name, value in form.fields.items():
        read = fields.get(name)
        if name.endswith("networks"):
            read = tuple(str(item) for item in read or ())
        elif isinstance(read, Identity):
            read = read.value if read.type is not IdentityType.KEY_ID else read
        if read != value:
            found[name] = read
    return found


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Read a form of each seed; return how they ended, and those that were silently wrong."""
    counts, found = Counter[str](), []
    for seed in seeds:
        random = Random(seed)
        form = draw_form(random)
        text, ours = render_form(form, random), random.choice((OURS, ()))
        ended = outcome(text, form, ours)
        counts[ended] += 1
        if ended == WRONG:
            read = read_form(text, [parse_prefix(our) for our in ours])
            found.append(f"seed {seed}: {text!r}\n  differs {_differing(form, read.fields)}\n  meant {form}")
    return counts, found
