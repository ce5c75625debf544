"""The words that writers of forms and mails pick from: names of algorithms, and six languages for all around them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class Cipher:
    """A cipher with the ways in which people write it."""

    label: str  # as the product writes it
    written: tuple[str, ...]
    combined: bool = False


@dataclass(frozen=True)
class Named:
    """A hash or a group with the ways in which people write it."""

    label: str
    written: tuple[str, ...]


CIPHERS: Final = (
    Cipher("AES-CBC-256", ("AES256", "AES-256", "aes256", "AES-256-CBC", "AES-CBC-256", "AES 256", "256-bit AES",
                           "AES (256 bit)", "aes-cbc-256", "ENCR_AES_CBC-256", "AES256-CBC", "AES 256 CBC",
                           "AES_256_CBC", "AES/256")),
    Cipher("AES-CBC-128", ("AES128", "AES-128", "aes128", "AES-128-CBC", "AES 128", "128-bit AES", "AES (128 bits)",
                           "AES-CBC-128")),
    Cipher("AES-CBC-192", ("AES192", "AES-192", "aes-192-cbc")),
    Cipher("AES-GCM-16-256", ("AES-256-GCM", "aes256gcm16", "AES-GCM-256", "AES256-GCM", "AES-GCM-16-256", "AES 256 GCM",
                              "AES_GCM_256", "aes256gcm", "AES-256 GCM"), combined=True),
    Cipher("AES-GCM-16-128", ("AES-128-GCM", "aes128gcm16", "AES-GCM-128", "AES GCM 128"), combined=True),
    Cipher("3DES", ("3DES", "3des", "3DES-CBC", "Triple-DES", "triple DES", "3-DES")),
    Cipher("ChaCha20-Poly1305", ("ChaCha20-Poly1305", "chacha20poly1305", "ChaCha20/Poly1305"), combined=True),
)  # fmt: skip
HASHES: Final = (
    Named(
        "SHA2-256",
        ("SHA256", "SHA-256", "sha256", "SHA2-256", "SHA 256", "HMAC-SHA256", "HMAC-SHA-256", "SHA2 256", "hmac-sha256"),
    ),
    Named("SHA2-384", ("SHA384", "SHA-384", "sha384", "SHA2-384", "HMAC-SHA-384")),
    Named("SHA2-512", ("SHA512", "SHA-512", "sha512", "SHA2-512", "SHA2_512")),
    Named("SHA1", ("SHA1", "SHA-1", "sha1", "HMAC-SHA1", "sha", "SHA", "hmac-sha1-96")),
    Named("MD5", ("MD5", "md5", "HMAC-MD5")),
)
GROUPS: Final = (
    Named("14", ("modp2048", "MODP-2048", "MODP 2048", "2048-bit MODP")),
    Named("2", ("modp1024", "MODP-1024", "MODP 1024")),
    Named("5", ("modp1536", "MODP-1536")),
    Named("16", ("modp4096", "MODP 4096")),
    Named("19", ("ecp256", "ECP-256", "NIST P-256", "P-256", "secp256r1")),
    Named("20", ("ecp384", "ECP 384", "NIST P-384", "P-384", "secp384r1")),
    Named("21", ("ecp521", "ECP-521", "P-521")),
    Named("31", ("curve25519", "Curve25519", "X25519", "x25519")),
)


@dataclass(frozen=True)
class Language:
    """The words of a language that forms are filled in with."""

    encryption: tuple[str, ...]
    integrity: tuple[str, ...]
    group: tuple[str, ...]
    lifetime: tuple[str, ...]
    phases: tuple[tuple[str, str], ...]
    seconds: tuple[str, ...]
    minutes: tuple[str, ...]
    hours: tuple[str, ...]
    or_: tuple[str, ...]
    and_: tuple[str, ...]
    yes: tuple[str, ...]
    no: tuple[str, ...]
    without: tuple[str, ...]


LANGUAGES: Final = (
    Language(
        ("Encryption", "Encryption algorithm", "Cipher", "encr", "ENC", "Encryption Alg."),
        ("Integrity", "Hash", "Authentication", "Hash algorithm", "auth", "Integrity algorithm", "Authentication algorithm"),
        ("DH group", "Diffie-Hellman group", "DH Group", "Group", "D-H group", "DH", "Key exchange"),
        ("Lifetime", "SA lifetime", "Key lifetime", "lifetime", "Life time", "SA life time", "Rekey after"),
        (("Phase 1", "Phase 2"), ("IKE", "IPsec"), ("IKE SA", "Child SA"), ("Phase I", "Phase II"), ("P1", "P2"), ("IKE", "ESP")),
        ("s", "sec", "seconds", "secs"), ("min", "minutes", "mins"), ("h", "hours", "hrs"),
        ("or", "/"), ("and", "+", "with"), ("yes", "on", "enabled"), ("no", "off", "disabled", "none"), ("no", "without", "not"),
    ),
    Language(
        ("Verschlüsselung", "Verschlüsselungsalgorithmus"), ("Integrität", "Hash", "Authentifizierung", "Prüfsumme"),
        ("DH-Gruppe", "Diffie-Hellman-Gruppe", "Gruppe"), ("Lebensdauer", "Gültigkeit", "SA-Lebensdauer"),
        (("Phase 1", "Phase 2"), ("IKE", "IPsec")), ("s", "Sekunden", "Sek."), ("min", "Minuten"), ("h", "Stunden", "Std."),
        ("oder",), ("und", "mit"), ("ja", "ein", "aktiv"), ("nein", "aus", "inaktiv"), ("kein", "ohne", "nicht"),
    ),
    Language(
        ("Chiffrement", "Algorithme de chiffrement"), ("Intégrité", "Hachage", "Authentification"),
        ("Groupe DH", "Groupe Diffie-Hellman", "Groupe"), ("Durée de vie", "Durée de vie SA"),
        (("Phase 1", "Phase 2"), ("IKE", "IPsec")), ("s", "secondes"), ("min", "minutes"), ("h", "heures"),
        ("ou",), ("et", "avec"), ("oui", "activé"), ("non", "désactivé"), ("sans", "pas de"),
    ),
    Language(
        ("Cifrado", "Encriptación"), ("Integridad", "Hash", "Autenticación"), ("Grupo DH", "Grupo Diffie-Hellman", "Grupo"),
        ("Tiempo de vida", "Vida útil", "Duración"), (("Fase 1", "Fase 2"), ("IKE", "IPsec")),
        ("s", "segundos"), ("min", "minutos"), ("h", "horas"), ("o",), ("y", "con"), ("sí", "si"), ("no",), ("sin", "no"),
    ),
    Language(
        ("Cifratura", "Crittografia"), ("Integrità", "Hash", "Autenticazione"), ("Gruppo DH", "Gruppo Diffie-Hellman", "Gruppo"),
        ("Durata", "Durata SA"), (("Fase 1", "Fase 2"),), ("s", "secondi"), ("min", "minuti"), ("h", "ore"),
        ("o", "oppure"), ("e", "con"), ("sì", "si"), ("no",), ("senza",),
    ),
    Language(
        ("Versleuteling", "Encryptie"), ("Integriteit", "Hash", "Authenticatie"), ("DH-groep", "Diffie-Hellman-groep", "Groep"),
        ("Levensduur",), (("Fase 1", "Fase 2"),), ("s", "seconden"), ("min", "minuten"), ("h", "uur"),
        ("of",), ("en", "met"), ("ja", "aan"), ("nee", "uit"), ("geen", "zonder", "niet"),
    ),
)  # fmt: skip
