"""Whatever a client sends, it is told what is wrong: requests made up from the API's own schema.

By schemathesis, over docs/openapi.json: valid requests and invalid ones of every operation, most
of them for things that are there.
"""

import json
import logging
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import requests
import schemathesis
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from rest_framework.test import APIClient
from schemathesis import GenerationMode

from lighten import preset_named, preset_to_json
from tests.core.formats.picture.samples import photo_bytes
from tests.web.cases import ApiCase
from web.satchels.models import Copy, Document, Run, Satchel

_SCHEMA = Path(__file__).parents[2] / "docs" / "openapi.json"
_EXAMPLES = 25
# What any of them asks for.
_QUERY = {"page": "1", "dpi": "50", "part": "1", "since": "2026-05-04T10:00:00Z"}
# To sign in, and to be told that nobody has.
_OPEN = {"/api/session"}
# No room: the client is told so, and what to do.
_NO_FAULTS = {507}
_SENT = {"method", "url", "params", "data", "json", "files", "headers"}
_NO_TASKS = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}


def _operations() -> list[Any]:
    schema = json.loads(_SCHEMA.read_text())
    # We sign in ourselves: no cookies are to be made up.
    del schema["components"]["securitySchemes"]
    for path in schema["paths"].values():
        for operation in path.values():
            operation.pop("security", None)
    found = [result.ok() for result in schemathesis.openapi.from_dict(schema).get_all_operations()]
    # What is there is needed by others: it goes last.
    return sorted(found, key=lambda one: one.method == "delete")


class ThereCase(ApiCase):
    """One of everything belongs to the owner."""

    def setUp(self) -> None:
        super().setUp()
        self.there = self._one_of_each()
        # Every refusal would be told.
        logging.disable(logging.ERROR)
        self.addCleanup(logging.disable, logging.NOTSET)

    def _one_of_each(self) -> dict[str, str]:
        """Ids of what is there, by the noun of its paths."""
        document = self.upload(self.report())["id"]
        run = self.post(f"/api/satchels/{self.satchel}/runs", {})["id"]
        copy = str(Copy.objects.get().pk)
        intake = self.post("/api/intakes", {"name": "Logs"})["id"]
        page = self.api.post(
            f"/api/intakes/{intake}/pages",
            {"file": SimpleUploadedFile("a.jpg", photo_bytes("JPEG"))},
        )
        returned = self.api.post(
            f"/api/documents/{document}/returned",
            {"file": SimpleUploadedFile("b.pdf", Document.objects.get().file.read())},
        )
        preset = {"title": "Mine", "treatment": preset_to_json(preset_named("post"))["treatment"]}
        limit = {"title": "Portal", "size_bytes": 9_000_000, "carrier": "file"}
        desk = {"name": "Desk", "preset": "post"}
        ids = {
            "satchels": self.satchel,
            "documents": document,
            "runs": run,
            "copies": copy,
            "returned": returned.json()["id"],
            "rasters": self.post(f"/api/documents/{document}/rasters", {"ppi": 60})["id"],
            "hand-overs": self.post(f"/api/copies/{copy}/hand-overs", {})["id"],
            "intakes": intake,
            "intake-pages": page.json()["id"],
            "presets": self.post("/api/presets", preset)["name"],
            "limits": self.post("/api/limits", limit)["name"],
            "print-queues": self.post("/api/print-queues", desk)["id"],
        }
        return {noun: str(id_) for noun, id_ in ids.items()}


class AnyRequest(ThereCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.owner)

    def test_any_request_is_answered_without_a_fault(self) -> None:
        with override_settings(TASKS=_NO_TASKS):
            for operation in _operations():
                with self.subTest(method=operation.method, path=operation.path):
                    self._try_many(operation)

    def _try_many(self, operation: Any) -> None:
        kinds = [operation.as_strategy(generation_mode=mode) for mode in GenerationMode]

        @settings(
            max_examples=_EXAMPLES,
            deadline=None,
            derandomize=True,
            database=None,
            suppress_health_check=list(HealthCheck),
            phases=[Phase.generate],
        )
        @given(case=st.one_of(*kinds), is_there=st.integers(0, 3))
        def try_one(case: Any, is_there: int) -> None:
            noun = operation.path.split("/")[2]
            if is_there and noun in self.there and "id" in case.path_parameters:
                case.path_parameters["id"] = self.there[noun]
            self._send(case)

        try_one()

    def _send(self, case: Any) -> None:
        told = case.as_transport_kwargs(base_url="http://testserver")
        told = {
            name: told[name]
            for name in told.keys()
            & {"method", "url", "params", "data", "json", "files", "headers"}
        }
        request = requests.Request(**told).prepare()
        answer = self.client.generic(
            request.method,
            request.path_url,
            request.body or b"",
            request.headers.get("Content-Type", ""),
        )
        if answer.status_code >= 500 and answer.status_code not in _NO_FAULTS:
            body = (request.body or b"")[:2000]
            self.fail(f"{answer.status_code}: {request.method} {request.url} {body!r}")
        answer.close()


class Strangers(ThereCase):
    """Every operation of the schema for what belongs to another, by its right address."""

    def of_others(self) -> Iterator[tuple[str, str, dict[str, str]]]:
        """Method, path and query of each operation on something that has an id."""
        for path, operations in json.loads(_SCHEMA.read_text())["paths"].items():
            if "{id}" not in path:
                continue
            own = path.format(id=self.there[path.split("/")[2]], number=1)
            for method, operation in operations.items():
                sides = {
                    told["name"]: told["schema"]["enum"][0]
                    for told in operation.get("parameters", ())
                    if "enum" in told["schema"]
                }
                yield method, own, {**_QUERY, **sides}

    def counts(self) -> list[int]:
        return [model.objects.count() for model in (Satchel, Document, Copy, Run)]

    def test_strangers_who_have_not_signed_in_are_let_into_nothing(self) -> None:
        before = self.counts()
        for operation in _operations():
            path = operation.path.format(id=uuid.uuid4(), number=1)
            if path in _OPEN:
                continue
            with self.subTest(method=operation.method, path=path):
                answer = getattr(APIClient(), operation.method)(path, {}, format="json")
                self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.counts(), before)

    def test_strangers_who_have_an_account_find_nothing_of_anothers(self) -> None:
        stranger = APIClient()
        stranger.force_authenticate(get_user_model().objects.create_user("stranger"))
        before, operations = self.counts(), list(self.of_others())
        self.assertGreater(len(operations), 50)
        for method, path, query in operations:
            with self.subTest(method=method, path=path):
                told = query if method == "get" else {}
                answer = getattr(stranger, method)(path, told, format="json")
                # Of a change, what is wrong with the request itself may be told first.
                known = (404,) if method == "get" else (400, 404, 415, 422)
                self.assertIn(answer.status_code, known)
                self.assertNotIn("Season", str(getattr(answer, "data", "")))
        self.assertEqual(self.counts(), before)
