"""Caches of a process between requests: sheets, estimates, and renderers."""

import threading
import unittest
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from unittest.mock import patch
from uuid import uuid4

from tests.web.cases import ApiCase
from web.jobs.runner import JobFailedError
from web.satchels.copies.page_renderer import Drawing, PageRenderers
from web.satchels.models import Document
from web.satchels.sheets.sheet_cache import SheetCache


class FakeProcess:
    """Draws when it is let; tells whether it was ended while it drew."""

    def __init__(self) -> None:
        self.may_draw = threading.Event()
        self.is_drawing = threading.Event()
        self.is_ended = self.was_ended_at_work = False
        self.is_silent = False
        self._asked = threading.Event()
        self.stdin = SimpleNamespace(write=lambda _: self._asked.set(), flush=lambda: None)
        self.stdout = self._lines()

    def _lines(self) -> Any:
        yield b"{}\n"
        while not self.is_ended:
            if not self._asked.wait(0.01):
                continue
            self._asked.clear()
            self.is_drawing.set()
            self.may_draw.wait(5)
            if self.is_silent:
                return
            yield b'{"drawn": true}\n'

    def poll(self) -> int | None:
        return 0 if self.is_ended else None

    def end(self) -> None:
        self.was_ended_at_work = self.is_drawing.is_set() and not self.may_draw.is_set()
        self.is_ended = True


class Renderers(unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.started: list[FakeProcess] = []
        self.renderers = PageRenderers(most_open=1)
        patched = patch("web.satchels.copies.page_renderer.start_job", self.start)
        patched.start()
        self.addCleanup(patched.stop)
        self.addCleanup(self.renderers.close)

    def start(self, *_arguments: object, **_options: object) -> FakeProcess:
        self.started.append(FakeProcess())
        return self.started[-1]

    def draw(self, copy: Any) -> None:
        self.renderers.draw(copy, Drawing(side="copy", page=1, dpi=72), Path("out.png"))

    def let_draw_soon(self, index: int) -> None:
        """The process that will have been started by then."""

        def let() -> None:
            self.started[index].may_draw.set()

        threading.Timer(0.05, let).start()

    @staticmethod
    def copy() -> Any:
        file = SimpleNamespace(path="copy")
        return SimpleNamespace(pk=uuid4(), document=SimpleNamespace(name="a.pdf"), file=file)

    def test_renderers_are_not_ended_for_another_while_they_draw(self) -> None:
        first, second = self.copy(), self.copy()
        drawing = threading.Thread(target=self.draw, args=(first,))
        drawing.start()
        while not self.started:
            pass
        busy = self.started[0]
        busy.is_drawing.wait(5)
        other = threading.Thread(target=self.draw, args=(second,))
        other.start()
        while len(self.started) < 2:
            pass
        self.assertFalse(busy.is_ended)
        self.started[1].may_draw.set()
        other.join(5)
        busy.may_draw.set()
        drawing.join(5)
        self.assertFalse(busy.was_ended_at_work)
        # One may stay open.
        self.assertEqual(sum(not process.is_ended for process in self.started), 1)

    def test_renderers_are_used_again_for_the_same_copy(self) -> None:
        copy = self.copy()
        for _ in range(3):
            self.let_draw_soon(0)
            self.draw(copy)
        self.assertEqual(len(self.started), 1)

    def test_renderers_that_die_fail_one_drawing_and_the_next_gets_another(self) -> None:
        copy = self.copy()

        def die() -> None:
            self.started[0].is_silent = True
            self.started[0].may_draw.set()

        threading.Timer(0.02, die).start()
        with self.assertRaises(JobFailedError):
            self.draw(copy)
        self.assertTrue(self.started[0].is_ended)
        self.let_draw_soon(1)
        self.draw(copy)


class Sheets(ApiCase):
    def test_sheets_are_read_once_until_the_document_changes(self) -> None:
        document = Document.objects.get(pk=self.upload(self.report())["id"])
        cache = SheetCache()
        sheet = cache.sheet(document)
        with self.assertNumQueries(0):
            self.assertIs(cache.sheet(document), sheet)
            cache.trials(document)
        document.version += 1
        document.save()
        with self.assertNumQueries(1):
            self.assertEqual(cache.sheet(document), sheet)

    def test_estimates_are_worked_out_once_for_a_version_and_order(self) -> None:
        document = Document.objects.get(pk=self.upload(self.report())["id"])
        cache, worked_out = SheetCache(), []

        def work_out() -> dict[str, Any]:
            worked_out.append(1)
            return {"bytes": len(worked_out)}

        for _ in range(2):
            self.assertEqual(cache.estimate(document, "post", work_out), {"bytes": 1})
        self.assertEqual(cache.estimate(document, "feather", work_out), {"bytes": 2})
        document.version += 1
        self.assertEqual(cache.estimate(document, "post", work_out), {"bytes": 3})
