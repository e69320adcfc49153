"""An installation on several machines: the queue in Redis, rows in PostgreSQL, a shared folder."""

import random
import tempfile
import time
import unittest
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django_tasks_rq import Job
from rq import SimpleWorker

from benchmarks.installation import Installation
from benchmarks.kill import Strain
from benchmarks.machines import WorkerMachine, are_there, redis_server, shared_servers
from host.serve import why_not_shared
from tests.web.cases import ApiCase
from web.problems import Problem
from web.queue.engine import task_queue
from web.queue.priorities import PRIORITIES, queue_name
from web.satchels import tasks
from web.satchels.models import Copy, Document
from web.satchels.upkeep.recovery import take_up_from_the_dead, take_up_lost

_PORT = 8974
_NEEDS = unittest.skipUnless(are_there(), "Debian's redis-server and postgresql are not here")


@_NEEDS
class InRedis(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.folder.mkdir(exist_ok=True)
        stack = ExitStack()
        self.addCleanup(stack.close)
        url = stack.enter_context(redis_server(self.folder))
        queues = {
            name: {"URL": url, "DEFAULT_TIMEOUT": -1}
            for name in ("default", *map(queue_name, PRIORITIES))
        }
        backend = {"BACKEND": "web.queue.redis_queue.PrioritisedBackend", "QUEUES": []}
        stack.enter_context(
            override_settings(REDIS_URL=url, RQ_QUEUES=queues, TASKS={"default": backend})
        )
        task_queue.cache_clear()
        stack.callback(task_queue.cache_clear)
        self.queue: Any = task_queue()

    def waiting_document(self, name: str = "a.pdf") -> Document:
        return Document.objects.create(satchel_id=self.satchel, name=name, size_bytes=1)

    def worker(self, name: str) -> SimpleWorker:
        options = {"connection": self.queue._redis, "job_class": Job}
        return SimpleWorker(self.queue._queues(), name=name, **options)

    def begin_next(self, worker: str) -> None:
        """As far as a worker comes that is killed then."""
        dying = self.worker(worker)
        taken = dying.dequeue_job_and_maintain_ttl(timeout=1)
        assert taken is not None
        dying.prepare_execution(taken[0])

    def test_the_most_urgent_task_goes_first(self) -> None:
        document = self.waiting_document()
        for task, about in (
            (tasks.try_document, "trials"),
            (tasks.make_copy, "copy"),
            (tasks.weigh_document, str(document.pk)),
        ):
            task.enqueue(about)
        self.assertEqual(self.queue.waiting().count, 3)
        self.assertEqual(self.queue.waiting_about(), {"trials", "copy", str(document.pk)})
        self.assertTrue(self.queue.has_more_urgent(20))
        self.begin_next("one")
        (begun,) = self.queue.begun()
        self.assertEqual((begun.about, begun.worker), ((str(document.pk),), "one"))
        self.assertFalse(self.queue.has_more_urgent(20))
        self.assertTrue(self.queue.has_more_urgent(0))

    def test_a_worker_is_alive_as_long_as_it_says_so(self) -> None:
        with self.queue.kept_alive("one"):
            self.assertTrue(self.queue.is_alive("one"))
            self.assertEqual(self.queue.living_workers(), 1)
        self.assertFalse(self.queue.is_alive("one"))

    def test_tasks_of_a_dead_worker_go_back_three_times_and_are_given_up_then(self) -> None:
        document = self.waiting_document()
        tasks.weigh_document.enqueue(str(document.pk))
        for tries in (1, 2, 3):
            self.begin_next(f"dead-{tries}")
            document.begin_weighing()
            (begun,) = self.queue.begun()
            self.assertEqual(begun.tries, tries)
            self.assertEqual(take_up_from_the_dead(), 1)
            self.assertEqual(self.queue.waiting().count, 0 if tries == 3 else 1)
        document.refresh_from_db()
        self.assertEqual((document.state, document.error_code), ("failed", "gave_up"))
        self.assertEqual(list(self.queue.begun()), [])

    def test_tasks_of_the_living_are_left(self) -> None:
        tasks.weigh_document.enqueue(str(self.waiting_document().pk))
        with self.queue.kept_alive("one"):
            self.begin_next("one")
            self.assertEqual(take_up_from_the_dead(), 0)

    def test_tasks_lost_by_a_queue_are_queued_again(self) -> None:
        document = self.waiting_document()
        run = document.satchel.runs.create(preset="post")
        copy = Copy.objects.create(run=run, document=document)
        take_up_lost(after_s=0)
        self.assertEqual(self.queue.waiting_about(), {str(document.pk), str(copy.pk)})

    def test_a_lost_queue_is_reported_and_documents_are_kept(self) -> None:
        self.queue._redis.shutdown(nosave=True)
        self.assertIn("does not answer", self.client.get("/health").json()["missing"])
        file = SimpleUploadedFile("a.pdf", self.report())
        with self.captureOnCommitCallbacks() as enqueue:
            answer = self.api.post(f"/api/satchels/{self.satchel}/documents", {"file": file})
        self.assertEqual(answer.status_code, 201)
        with self.assertRaisesRegex(Problem, "worked on once it does"):
            enqueue[0]()
        self.assertEqual(Document.objects.get().state, "waiting")

    def test_tasks_are_done(self) -> None:
        document = self.upload(self.report())["id"]
        self.worker("one").work(burst=True, max_jobs=1)
        self.assertEqual(Document.objects.get(pk=document).state, "weighed")


class Settings(unittest.TestCase):
    def test_settings_that_machines_must_share_are_asked_for(self) -> None:
        told = {"GREEN_SATCHEL_REDIS_URL": "redis://queue"}
        self.assertIn("GREEN_SATCHEL_DATABASE_URL", why_not_shared(told))
        self.assertIn("GREEN_SATCHEL_SECRET_KEY", why_not_shared(told))
        self.assertEqual(why_not_shared({}), "")


@_NEEDS
class Machines(unittest.TestCase):
    def test_machines_do_the_work_together_and_go_on_when_one_of_them_is_gone(self) -> None:
        with ExitStack() as stack:
            folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
            shared = stack.enter_context(shared_servers(folder))
            # The server works on nothing itself; each machine has a folder of its own.
            place = Installation(folder / "server", _PORT, people=1, workers=0, shared=shared)
            place.start()
            stack.callback(place.stop)
            strain = Strain(place, random.Random(3))
            stack.callback(strain.close)
            first, second = (WorkerMachine(place, folder / name) for name in ("one", "two"))
            stack.callback(second.stop)
            stack.callback(first.stop)
            satchel = strain.convert_with_office(6)
            strain.until_weighed(satchel)
            strain.start_copies(satchel)
            time.sleep(0.5)
            first.kill()
            self.assertEqual(strain.until_settled(satchel), [])
            # Nothing of the installation lies on one machine alone.
            self.assertEqual(list(folder.glob("*/satchels.sqlite3")), [])
            self.assertEqual(list(folder.glob("*/files")), [])
