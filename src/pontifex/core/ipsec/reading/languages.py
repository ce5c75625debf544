"""The words around values, in the languages in which forms are filled in: labels, units, sections, and what joins or negates.

English, German, French, Spanish, Italian and Dutch. Patterns of regular expressions, without regard to letter case.
"""

from __future__ import annotations

from typing import Final

ENCRYPTION: Final = (
    r"encryption(?:\s+(?:algorithms?|alg|algo))?\.?|encr|enc|ciphers?|verschlüsselung(?:s(?:algorithmus|verfahren))?"
    r"|(?:algorithme\s+de\s+)?chiffrement|cifrado|encriptación|cifratura|crittografia|versleuteling|encryptie"
)
INTEGRITY: Final = (
    r"(?:integrity|hash(?:ing)?|auth(?:entication)?|message\s+authentication)(?:\s+(?:algorithms?|alg|algo))?\.?|integ|hmac"
    r"|integrität(?:sprüfung)?|authentifizierung|prüfsumme|intégrité|hachage|authentification|integridad|autenticación"
    r"|integrità|autenticazione|integriteit|authenticatie"
)
GROUP: Final = (
    r"(?:(?:dh|d-h|diffie[\s-]*hellman|oakley|modp)[\s_.-]*)?(?:groups?|grp|gr|gruppe|groep)"
    r"|(?:groupe|grupo|gruppo)(?:[\s_.-]*(?:dh|d-h|diffie[\s-]*hellman))?"
    r"|dh|d-h|diffie[\s-]*hellman|key[\s-]*exchange|schlüsselaustausch|échange\s+de\s+clés|intercambio\s+de\s+claves"
)
LIFETIME: Final = (
    r"(?:(?:sa|key|ike|ipsec|esp)[\s-]*)?life[\s_-]*(?:times?|duration)?|key[\s-]*life"
    r"|rekey(?:ing)?(?:\s+(?:time|interval|every|after))?|(?:sa-)?lebensdauer|gültigkeit(?:sdauer)?|laufzeit"
    r"|durée(?:\s+de\s+vie)?(?:\s+sa)?|tiempo\s+de\s+vida|vida\s+útil|duración|durata(?:\s+sa)?|levensduur"
)
SECONDS: Final = r"seconds?|secs?|s|sekunden?|sek|secondes?|segundos?|secondi|seconden"
MINUTES: Final = r"minutes?|mins?|m|minuten?|minutos?|minuti"
HOURS: Final = r"hours?|hrs?|h|stunden?|std|heures?|horas?|ore|uur"
DAYS: Final = r"days?|d|tage?|jours?|días?|giorni|dagen|dag"
PHASE: Final = r"(?:phase|fase)"
OR: Final = r"or|oder|ou|oppure|of|o"
AND: Final = r"and|und|et|en|e|y|with|mit|avec|con|met"
YES: Final = r"yes|on|enabled?|true|ja|ein|aktiv(?:iert)?|oui|activé|sí|si|sì|aan"
NO: Final = (
    r"no|off|none|disabled?|false|nein|aus|inaktiv|deaktiviert|non|désactivé|desactivado|nee|uit"
    r"|not\s+(?:allowed|supported|used|wanted|permitted)|unsupported|forbidden|prohibited|verboten|interdit|prohibido"
)
NOT: Final = (
    r"no|not|never|without|except(?:\s+for)?|excluding|kein(?:en?|e)?|ohne|nicht|nie|sans|pas\s+(?:de|d')|sauf|sin|nunca|excepto"
    r"|senza|mai|geen|zonder|niet|do(?:es)?\s+not\s+(?:use|allow|support)|don't\s+(?:use|allow|support)"
)
PFS: Final = r"pfs|perfect[\s-]+forward[\s-]+secrecy|forward[\s-]+secrecy"
PROPOSAL: Final = r"(?:proposals?|options?|vorschlag|propositions?|propuestas?|proposte|proposta|voorstel)"
NOISE: Final = (
    r"algorithms?|algo|prf|proposals?|transforms?(?:[\s-]*set)?|policy|suite|mode|tunnel|settings?|parameters?|for|use|using|we|our|are"
    r"|is|the|then|bits?|sa|please|only|support|both|each|either|following|key|size|length|value|version|nur|seulement|solo|alleen"
)
