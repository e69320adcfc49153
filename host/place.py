"""Folder of an installation, and the secret that is made once for it."""

import argparse
import os
import secrets
from pathlib import Path

__all__ = ["add_data", "environment_of"]


def add_data(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--data",
        type=Path,
        default=Path(os.environ.get("GREEN_SATCHEL_VAR", "green-satchel-data")),
        metavar="DIR",
        help="the folder of the installation: database, files, secret key (%(default)s)",
    )


def environment_of(data: Path) -> dict[str, str]:
    """Return the environment for programs of the installation in that folder, which is created if
    needed.

    Whatever the environment says already stays.
    """
    # For whoever runs it, and nobody else on the machine.
    os.umask(0o077)
    data = data.resolve()
    data.mkdir(parents=True, exist_ok=True)
    return {
        "DJANGO_SETTINGS_MODULE": "config.settings",
        "GREEN_SATCHEL_VAR": str(data),
        # Where the program itself belongs to another, what it compiles lies here.
        "GREEN_SATCHEL_COMPILED": str(data / "compiled"),
        **_secret(data),
        **os.environ,
    }


def _secret(data: Path) -> dict[str, str]:
    """Return the secret of the folder; none is made where several machines must share one."""
    if "GREEN_SATCHEL_REDIS_URL" in os.environ:
        return {}
    return {"GREEN_SATCHEL_SECRET_KEY": _secret_key(data)}


def _secret_key(data: Path) -> str:
    path = data / "secret-key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()
