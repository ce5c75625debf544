"""An independent reader of captures: what `tshark` makes of the octets of a rehearsal, decrypted with its session keys."""

from __future__ import annotations

import json
import subprocess
from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pontifex.core.ipsec import Transform, TransformType
from pontifex.core.rehearsal.capture import EspSessionKeys, IkeSessionKeys, SessionKeys, pcapng, seen_outside, session_keys
from pontifex.core.rehearsal.outcome import Rehearsal

# how the reader names algorithms, by IANA's number and the key length
_IKE_CIPHERS = {
    3: "3DES [RFC2451]",
    12: "AES-CBC-{bits} [RFC3602]",
    14: "AES-CCM-{bits} with 8 octet ICV [RFC5282]",
    16: "AES-CCM-{bits} with 16 octet ICV [RFC5282]",
    18: "AES-GCM-{bits} with 8 octet ICV [RFC5282]",
    19: "AES-GCM-{bits} with 12 octet ICV [RFC5282]",
    20: "AES-GCM-{bits} with 16 octet ICV [RFC5282]",
}
_IKE_CODES = {
    None: "NONE [RFC4306]",
    2: "HMAC_SHA1_96 [RFC2404]",
    12: "HMAC_SHA2_256_128 [RFC4868]",
    13: "HMAC_SHA2_384_192 [RFC4868]",
    14: "HMAC_SHA2_512_256 [RFC4868]",
}
_ESP_CIPHERS = {
    3: "TripleDES-CBC [RFC2451]",
    11: "NULL",
    12: "AES-CBC [RFC3602]",
    13: "AES-CTR [RFC3686]",
    18: "AES-GCM with 8 octet ICV [RFC4106]",
    19: "AES-GCM with 12 octet ICV [RFC4106]",
    20: "AES-GCM with 16 octet ICV [RFC4106]",
}
_ESP_CODES = {
    None: "NULL",
    1: "HMAC-MD5-96 [RFC2403]",
    2: "HMAC-SHA-1-96 [RFC2404]",
    12: "HMAC-SHA-256-128 [RFC4868]",
    13: "HMAC-SHA-384-192 [RFC4868]",
    14: "HMAC-SHA-512-256 [RFC4868]",
}
_SEALED = "46"  # IANA's number of the Encrypted payload


@dataclass(frozen=True)
class Seen:
    """What the reader saw: exchanges with their payloads, and what it complains of."""

    exchanges: Counter[int]
    sealed: frozenset[int]  # frames with messages of IKE that are sealed whole, not in fragments
    opened: frozenset[int]  # of them, those whose inside it could read
    esp: int
    inner: int  # packets of ESP whose inside it could read
    complaints: tuple[str, ...]


def _of(transforms: tuple[Transform, ...], type_: TransformType) -> Transform | None:
    return next((transform for transform in transforms if transform.type is type_), None)


def _ike_row(keys: IkeSessionKeys) -> str:
    cipher, code = _of(keys.transforms, TransformType.ENCR), _of(keys.transforms, TransformType.INTEG)
    assert cipher
    names = _IKE_CIPHERS[cipher.id].format(bits=cipher.key_length), _IKE_CODES[code.id if code else None]
    cells = (
        keys.spi_i, keys.spi_r, keys.encryption_i, keys.encryption_r, f'"{names[0]}"', keys.integrity_i, keys.integrity_r,
        f'"{names[1]}"',
    )  # fmt: skip
    return "uat:ikev2_decryption_table:" + ",".join(cells)


def _esp_row(keys: EspSessionKeys, family: str) -> str:
    cipher, code = _of(keys.transforms, TransformType.ENCR), _of(keys.transforms, TransformType.INTEG)
    numbers = _of(keys.transforms, TransformType.ESN)
    assert cipher
    cells = (
        family, "*", "*", f"0x{keys.spi}", _ESP_CIPHERS[cipher.id], f"0x{keys.encryption}" if keys.encryption else "",
        _ESP_CODES[code.id if code else None], f"0x{keys.integrity}" if keys.integrity else "",
        "64-bit" if numbers and numbers.id else "32-bit",
    )  # fmt: skip
    return "uat:esp_sa:" + ",".join(f'"{cell}"' for cell in cells)


def read_by_witness(rehearsal: Rehearsal, keys: SessionKeys, folder: Path, *, family: str = "IPv4") -> Seen:
    """Let the reader decode a rehearsal's capture with its session keys."""
    file = folder / "capture.pcapng"
    file.write_bytes(pcapng(seen_outside(rehearsal.sent)))
    options = [_ike_row(ike_session_keys) for ike_session_keys in keys.ike] + [
        _esp_row(esp_session_keys, family) for esp_session_keys in keys.esp
    ]
    switches = ["esp.enable_encryption_decode:TRUE", "esp.enable_authentication_check:TRUE", *options]
    command = ["tshark", "-r", str(file), "-T", "json", "--no-duplicate-keys"]
    for switch in switches:
        command += ["-o", switch]
    done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == 0, done.stderr
    return _seen(json.loads(done.stdout))


def malformed(file: Path) -> str:
    """Return what the reader says of packets of a capture that are malformed, or whose sums are wrong; nothing for none."""
    wrong = "_ws.malformed or tcp.checksum.status == 0 or ip.checksum.status == 0"
    command = ["tshark", "-r", str(file), "-o", "tcp.check_checksum:TRUE", "-o", "ip.check_checksum:TRUE", "-Y", wrong]
    done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == 0, done.stderr
    return done.stdout


def _seen(frames: list[dict[str, Any]]) -> Seen:
    exchanges: Counter[int] = Counter()
    sealed: set[int] = set()
    opened: set[int] = set()
    esp = inner = 0
    complaints: list[str] = []
    for number, frame in enumerate(frames, start=1):
        text = json.dumps(frame)
        layers = frame["_source"]["layers"]
        faults = [f"frame {number}: {word}" for word in ("_ws.malformed", "[incorrect", '"esp.icv_bad": "1"') if word in text]
        complaints += faults
        if "isakmp" in layers:
            exchanges[int(layers["isakmp"]["isakmp.exchangetype"])] += 1
            if layers["isakmp"]["isakmp.nextpayload"] == _SEALED:
                sealed.add(number)
            if "isakmp.enc.decrypted" in text and not faults:
                opened.add(number)
        if "esp" in layers:
            esp += 1
            inner += "esp.contained_data" in text or "esp.decrypted_data" in text
    return Seen(exchanges, frozenset(sealed), frozenset(opened), esp, inner, tuple(complaints))


def keys_of(rehearsal: Rehearsal) -> SessionKeys:
    """Return the session keys of a rehearsal."""
    return session_keys(rehearsal.effects)
