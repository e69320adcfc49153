"""Encryption of stored words, so that a copy of the database does not reveal them."""

import base64
import hashlib
from typing import Any

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings
from django.db import models

__all__ = ["SealedField"]

# Fernet's own mark: what does not begin with it was kept before words were sealed.
_MARK = "gAAAA"


class SealedField(models.CharField[str, str]):
    """A text that is encrypted in the database, by a key made from the installation's secret.

    Under another secret it reads as "": whoever needs it is asked again.
    """

    def get_prep_value(self, value: Any) -> str:
        plain = str(super().get_prep_value(value) or "")
        return _seal().encrypt(plain.encode()).decode() if plain else ""

    def from_db_value(self, value: str | None, *_: Any) -> str:
        if not value or not value.startswith(_MARK):
            return value or ""
        try:
            return _seal().decrypt(value.encode()).decode()
        except InvalidToken:
            return ""


def _seal() -> Fernet:
    key = hashlib.sha256(b"documents' passwords " + settings.SECRET_KEY.encode()).digest()
    return Fernet(base64.urlsafe_b64encode(key))
