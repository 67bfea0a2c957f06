"""Letters without their accents, for words that are looked for in other languages."""

from __future__ import annotations

import unicodedata


def folded(text: str) -> str:
    """Lower case without accents: ``Verfügbar`` is verfugbar; µ, ø and Ω stay.

    >>> folded('Délai (µF)')
    'delai (µf)'
    """
    if text.isascii():
        return text.lower()
    return "".join(c for c in unicodedata.normalize("NFD", text.lower()) if not unicodedata.combining(c))
