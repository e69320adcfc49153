"""`green-satchel people`: who may sign in."""

import argparse
import getpass
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from host.place import add_data, environment_of

__all__ = ["people_command"]


def people_command(arguments: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(prog="green-satchel people", description=__doc__)
    verbs = parser.add_subparsers(dest="verb", required=True, metavar="VERB")
    for verb, text in (
        ("add", "a new person; the password is asked for"),
        ("reset", "another password for a person"),
        ("remove", "take a person out, with all satchels of theirs"),
        ("list", "everybody, and when they last signed in"),
    ):
        one = verbs.add_parser(verb, help=text, description=text)
        add_data(one)
        if verb != "list":
            one.add_argument("name")
        if verb in ("add", "reset"):
            one.add_argument("--password-file", type=Path, help="instead of asking; first line")
        if verb == "remove":
            one.add_argument("--yes", action="store_true", help="without asking")
    options = parser.parse_args(arguments)
    os.environ.update(environment_of(options.data))
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    try:
        print(_VERBS[options.verb](options))
    except _RefusedError as refusal:
        print(f"green-satchel people: {refusal}", file=sys.stderr)
        return 1
    return 0


class _RefusedError(Exception):
    pass


def _add(options: argparse.Namespace) -> str:
    from django.contrib.auth import get_user_model

    if get_user_model().objects.filter(username__iexact=options.name).exists():
        raise _RefusedError(f"there is a {options.name} already.")
    user = get_user_model()(username=options.name)
    user.set_password(_password(options, user))
    _check(user)
    user.save()
    return f"{options.name} may sign in."


def _reset(options: argparse.Namespace) -> str:
    user = _known(options.name)
    user.set_password(_password(options, user))
    user.save()
    return (
        f"{options.name} has another password; whoever was signed in with the old one no longer is."
    )


def _remove(options: argparse.Namespace) -> str:
    from web.intake.models import Intake
    from web.satchels.models import Satchel

    user = _known(options.name)
    satchels = Satchel.objects.filter(owner=user)
    if not options.yes:
        answer = input(f"{options.name} and {satchels.count()} satchels will be gone. Type yes: ")
        if answer.strip().lower() != "yes":
            raise _RefusedError("nothing was removed.")
    holders: list[Any] = [*satchels, *Intake.objects.filter(owner=user)]
    for holder in holders:
        holder.remove()
    user.delete()
    return f"{options.name} is gone, with every file."


def _list(_described: argparse.Namespace) -> str:
    from django.contrib.auth import get_user_model

    people = get_user_model().objects.order_by("username")
    lines = [
        f"{user.get_username():30} "
        + (f"{user.last_login:%Y-%m-%d %H:%M} UTC" if user.last_login else "never signed in")
        for user in people
    ]
    return "\n".join(lines) or "Nobody yet: green-satchel people add NAME"


_VERBS = {"add": _add, "reset": _reset, "remove": _remove, "list": _list}


def _known(name: str) -> Any:
    from django.contrib.auth import get_user_model

    user = get_user_model().objects.filter(username=name).first()
    if user is None:
        raise _RefusedError(f"there is no {name}.")
    return user


def _password(options: argparse.Namespace, user: Any) -> str:
    from django.contrib.auth.password_validation import validate_password
    from django.core.exceptions import ValidationError

    if options.password_file is not None:
        lines = options.password_file.read_text().splitlines()
        password = lines[0] if lines else ""
    else:
        password = getpass.getpass("Password: ")
        if getpass.getpass("Once more: ") != password:
            raise _RefusedError("the two were not the same.")
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise _RefusedError(" ".join(error.messages)) from error
    return str(password)


def _check(user: Any) -> None:
    from django.core.exceptions import ValidationError

    try:
        user.full_clean()
    except ValidationError as error:
        raise _RefusedError(" ".join(error.messages)) from error
