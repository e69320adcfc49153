"""The demo's database, account and satchels; does nothing where they are already."""

import json
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files import File
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from web.accounts.demo import DEMO_ACCOUNT
from web.satchels.models import Document, Satchel
from web.satchels.tasks import start_weighing


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("satchels", type=Path, help="their list, as `demo.satchels` writes it")

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("make_ready", stdout=self.stdout)
        call_command("forget_old", stdout=self.stdout)
        users = get_user_model().objects
        user, is_new = users.get_or_create(username=DEMO_ACCOUNT)
        if is_new:
            user.set_unusable_password()
            user.save()
        elif Satchel.objects.filter(owner=user).exists():
            return
        for entry in json.loads(options["satchels"].read_text()):
            files = entry.pop("files")
            satchel = Satchel.objects.create(owner=user, **entry)
            for file in files:
                _take_in(satchel, Path(file["path"]), file["folder"])


def _take_in(satchel: Satchel, path: Path, folder: str) -> None:
    document = Document(
        satchel=satchel, name=path.name, folder=folder, size_bytes=path.stat().st_size
    )
    with path.open("rb") as file:
        document.file.save("original", File(file), save=False)
    document.save()
    start_weighing(document)
