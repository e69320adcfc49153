"""What tests of the application share: accounts, a folder for files, work done at once."""

import shutil
import tempfile
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, override_settings
from rest_framework.test import APIClient

from tests.core.formats.pdf.samples import report

__all__ = ["AT_ONCE", "ApiCase"]

AT_ONCE = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}


class ApiCase(TestCase):
    """Signed in as the owner of a satchel; tasks run as soon as a request commits.

    has_trials: documents are learned after they are weighed, which takes a second or two each.
    """

    has_trials = False

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp(prefix="satchels-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        settings = override_settings(
            TASKS=AT_ONCE,
            MEDIA_ROOT=self.folder / "files",
            CODINGS_PATH=self.folder / "codings.sqlite3",
            HAS_TRIALS=self.has_trials,
            # The real one takes a second by design, in every test.
            PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"],
        )
        settings.enable()
        self.addCleanup(settings.disable)
        self.owner = get_user_model().objects.create_user("owner", password="reeds and rushes")
        self.api = APIClient()
        self.api.force_authenticate(self.owner)
        self.satchel = self.post("/api/satchels", {"name": "Season"})["id"]

    def post(self, path: str, body: dict[str, Any] | None = None, *, status: int = 201) -> Any:
        return self.send("post", path, body, status=status)

    def send(
        self, method: str, path: str, body: dict[str, Any] | None = None, *, status: int = 200
    ) -> Any:
        """The answer's JSON, after the work it set off."""
        with self.captureOnCommitCallbacks(execute=True):
            answer = getattr(self.api, method)(path, body, format="json")
        self.assertEqual(answer.status_code, status, getattr(answer, "data", ""))
        return answer.json() if answer.content else None

    def upload(
        self, content: bytes, name: str = "report.pdf", folder: str = "", *, status: int = 201
    ) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.api.post(
                f"/api/satchels/{self.satchel}/documents",
                {"file": SimpleUploadedFile(name, content), "folder": folder},
                format="multipart",
            )
        self.assertEqual(answer.status_code, status, getattr(answer, "data", ""))
        return answer.json()

    def report(self, **options: Any) -> bytes:
        path = self.folder / "report-source.pdf"
        return report(path, **options).path.read_bytes()

    def shown(self) -> Any:
        return self.send("get", f"/api/satchels/{self.satchel}")
