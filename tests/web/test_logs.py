"""Logs: events with document ids, without file names."""

import json
import logging
import subprocess
import sys
from typing import Any

from tests.web.cases import ApiCase
from web.logs import AboutWork

_CODE = """
import django, logging
django.setup()
logging.getLogger("web.jobs").info("job ended", extra={"document": "7", "seconds": 0.5})
"""


class _Kept(logging.Handler):
    def __init__(self) -> None:
        super().__init__()
        self.records: list[logging.LogRecord] = []
        self.addFilter(AboutWork())

    def emit(self, record: logging.LogRecord) -> None:
        self.records.append(record)


class Logs(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.kept, root = _Kept(), logging.getLogger()
        level = root.level
        root.addHandler(self.kept)
        root.setLevel(logging.INFO)
        self.addCleanup(root.setLevel, level)
        self.addCleanup(root.removeHandler, self.kept)

    def told(self, message: str) -> list[dict[str, Any]]:
        return [vars(one) for one in self.kept.records if one.getMessage() == message]

    def test_logs_name_tasks_and_jobs_by_their_ids(self) -> None:
        document = self.upload(self.report())["id"]
        (began,), (job,) = self.told("task began"), self.told("job ended")
        self.assertEqual((began["about"], began["task_name"]), (document, "weigh_document"))
        self.assertEqual(
            (job["document"], job["work"], job["outcome"]), (document, "weigh", "done")
        )
        self.assertEqual(job["task"], began["task"])
        self.assertGreater(job["seconds"], 0)

    def test_logs_say_why_a_job_failed(self) -> None:
        self.upload(b"no document", "Heron survey.pdf")
        (job,) = self.told("job ended")
        self.assertEqual(job["outcome"], self.shown()["documents"][0]["error"]["code"])

    def test_logs_name_no_file(self) -> None:
        self.upload(b"no document", "Heron survey.pdf")
        self.upload(self.report(), "Heron season.pdf")
        self.post(f"/api/satchels/{self.satchel}/runs", {})
        formatter = logging.Formatter()
        for record in self.kept.records:
            self.assertNotIn("Heron", formatter.format(record) + repr(vars(record)))


class Lines(ApiCase):
    def test_lines_are_json_where_that_is_asked_for(self) -> None:
        told = {"DJANGO_SETTINGS_MODULE": "config.settings", "GREEN_SATCHEL_LOG": "json"}
        done = subprocess.run(
            [sys.executable, "-c", _CODE], env=told, capture_output=True, text=True, check=True
        )
        line = json.loads(done.stderr)
        self.assertEqual((line["message"], line["level"]), ("job ended", "INFO"))
        self.assertEqual((line["document"], line["seconds"]), ("7", 0.5))
        self.assertIn("at", line)
