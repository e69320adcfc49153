"""What waits for what: weighing before copies, copies before trials; and after a stop, go on."""

import fcntl
import subprocess
import sys
import tempfile
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.db.models import QuerySet
from django.test import TransactionTestCase, override_settings
from django.utils import timezone
from django_tasks import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from tests.web.cases import ApiCase
from web.queue.database_queue import DatabaseQueue
from web.queue.engine import task_queue
from web.queue.worker_locks import is_alive, kept_alive
from web.satchels import tasks
from web.satchels.management.commands import work
from web.satchels.models import Copy, Document, Run, Satchel
from web.satchels.upkeep.recovery import take_up_again, take_up_from_the_dead, take_up_lost

IN_DATABASE = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}


class Order(ApiCase):
    def test_order_of_the_queue_is_weighing_then_copies_then_trials(self) -> None:
        with override_settings(TASKS=IN_DATABASE):
            tasks.try_document.enqueue("a")
            tasks.make_copy.enqueue("b")
            tasks.weigh_document.enqueue("c")
            queued = [task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()]
        self.assertEqual(queued, ["c", "b", "a"])


class GivingWay(ApiCase):
    has_trials = True

    def test_trials_give_way_to_a_document_that_waits_to_be_weighed(self) -> None:
        tried = Document.objects.get(pk=self.upload(self.report())["id"])
        Document.objects.filter(pk=tried.pk).update(trial_progress=0, trials={})
        waiting = tried.satchel.documents.create(name="b.pdf", size_bytes=1, state="waiting")
        tasks.try_document.call(str(tried.pk))
        tried.refresh_from_db()
        self.assertEqual((tried.trial_progress, tried.trials), (0, {}))
        # ... and go on once it is weighed, or cannot be.
        with patch.object(tasks, "run_job", side_effect=tasks.JobFailedError("unreadable", "no")):
            tasks.weigh_document.call(str(waiting.pk))
        tried.refresh_from_db()
        self.assertEqual(tried.trial_progress, 1)

    def test_trials_give_way_to_other_tasks_and_continue_after_them(self) -> None:
        tried = Document.objects.get(pk=self.upload(self.report())["id"])
        Document.objects.filter(pk=tried.pk).update(trial_progress=0, trials={})
        with override_settings(TASKS=IN_DATABASE):
            # Anything that somebody waits for: a page taken in, pages as pictures, mail.
            tasks.make_copy.enqueue("none")
            with self.captureOnCommitCallbacks(execute=True):
                tasks.try_document.call(str(tried.pk))
            queued = [task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()]
        self.assertEqual(queued, ["none", str(tried.pk)])
        tried.refresh_from_db()
        self.assertEqual((tried.trial_progress, tried.trials), (0, {}))

    def test_trials_of_an_open_bench_come_before_those_of_others(self) -> None:
        seen = Document.objects.get(pk=self.upload(self.report())["id"])
        Satchel.objects.filter(pk=self.satchel).update(seen_at=None)
        other = Satchel.objects.create(owner=self.owner, name="Not open")
        Document.objects.filter(pk=seen.pk).update(trial_progress=0, trials={})
        with override_settings(TASKS=IN_DATABASE):
            waiting = other.documents.create(name="b.pdf", size_bytes=1, state="weighed")
            tasks._enqueue_trials(other, waiting.pk)
            self.shown()
            queued = [task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()]
            self.assertEqual(queued, [str(seen.pk), str(waiting.pk)])
            self.assertTrue(tasks._must_give_way(waiting))
            self.assertFalse(tasks._must_give_way(seen))

    def test_trials_that_run_are_not_begun_again_when_their_bench_is_opened(self) -> None:
        seen = Document.objects.get(pk=self.upload(self.report())["id"])
        Document.objects.filter(pk=seen.pk).update(trial_progress=0, trials={})
        with override_settings(TASKS=IN_DATABASE):
            tasks.try_document.enqueue(str(seen.pk))
            DBTaskResult.objects.update(status="RUNNING")
            Satchel.objects.filter(pk=self.satchel).update(seen_at=None)
            self.shown()
            self.assertFalse(DBTaskResult.objects.ready().exists())


class HowLongStill(ApiCase):
    def copies(self, **states: dict[str, Any]) -> Run:
        run = None
        for name, facts in states.items():
            size = facts.pop("size_bytes")
            document = Document.objects.create(
                satchel_id=self.satchel, name=name, size_bytes=size, state="weighed"
            )
            run = run or document.satchel.runs.create(preset="post")
            Copy.objects.create(run=run, document=document, **facts)
        assert run is not None
        return run

    def test_how_long_still_rests_on_what_copies_took_and_what_is_left_of_those_at_work(
        self,
    ) -> None:
        run = self.copies(
            a={"size_bytes": 1_000_000, "state": "done", "seconds": 4.0},
            b={
                "size_bytes": 3_000_000,
                "state": "working",
                "progress": 0.5,
                "seconds_left": 3.0,
            },
            c={"size_bytes": 2_000_000, "state": "waiting"},
        )
        # Two seconds each, 1.5 a megabyte beyond them, three left of the one at work.
        self.assertEqual(run.seconds_left, 3.0 + 2.0 + 2 * 1.5)

    def test_time_left_is_not_estimated_from_a_small_part(self) -> None:
        run = self.copies(
            a={"size_bytes": 10_000, "state": "done", "seconds": 2.5},
            b={"size_bytes": 80_000_000, "state": "waiting"},
        )
        self.assertIsNone(run.seconds_left)

    def test_how_long_still_is_not_known_at_first_and_not_asked_when_all_is_done(self) -> None:
        waiting = self.copies(a={"size_bytes": 9, "state": "waiting"})
        self.assertIsNone(waiting.seconds_left)
        waiting.copies.update(state="done", seconds=1.0)
        self.assertIsNone(waiting.seconds_left)

    def test_small_documents_come_first(self) -> None:
        run = self.copies(
            a={"size_bytes": 5}, b={"size_bytes": 900}, c={"size_bytes": 1}, d={"size_bytes": 70}
        )
        with override_settings(TASKS=IN_DATABASE), self.captureOnCommitCallbacks(execute=True):
            tasks.start_copies(run)
        queued = [
            Copy.objects.get(pk=task.args_kwargs["args"][0]).document.size_bytes
            for task in DBTaskResult.objects.order_by("enqueued_at")
        ]
        self.assertEqual(queued, [1, 5, 70, 900])


class AfterAStop(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        in_database = override_settings(TASKS=IN_DATABASE)
        in_database.enable()
        self.addCleanup(in_database.disable)

    def left_under_way(self) -> tuple[Document, Copy]:
        """A document and a copy whose workers are gone."""
        document = Document.objects.create(
            satchel_id=self.satchel, name="a.pdf", size_bytes=1, state="weighing", progress=0.4
        )
        run = document.satchel.runs.create(preset="post")
        copy = Copy.objects.create(run=run, document=document, state="working", progress=0.7)
        return document, copy

    def test_running_tasks_go_back_and_their_documents_and_copies_with_them(self) -> None:
        document, copy = self.left_under_way()
        tasks.weigh_document.enqueue(str(document.pk))
        tasks.make_copy.enqueue(str(copy.pk))
        DBTaskResult.objects.update(status=TaskResultStatus.RUNNING, worker_ids=["gone"])
        self.assertEqual(take_up_again(), 2)
        self.assertEqual(DBTaskResult.objects.ready().count(), 2)
        document.refresh_from_db()
        copy.refresh_from_db()
        self.assertEqual((document.state, copy.state), ("waiting", "waiting"))

    def test_a_task_of_a_killed_worker_is_queued_again(self) -> None:
        document, copy = self.left_under_way()
        tasks.weigh_document.enqueue(str(document.pk))
        DBTaskResult.objects.update(status=TaskResultStatus.FAILED)
        take_up_again()
        queued = {task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()}
        self.assertEqual(queued, {str(document.pk), str(copy.pk)})

    def test_copies_of_a_shared_limit_wait_for_their_shares(self) -> None:
        _, copy = self.left_under_way()
        copy.run.fit = {"is_shared": True}
        copy.run.save()
        for _ in range(2):
            take_up_again()
            queued = [task.args_kwargs["args"][0] for task in DBTaskResult.objects.ready()]
            self.assertNotIn(str(copy.pk), queued)
            self.assertEqual(queued.count(str(copy.run_id)), 1)

    def test_after_astop_twice_nothing_is_queued_twice(self) -> None:
        self.left_under_way()
        take_up_again()
        self.assertEqual(take_up_again(), 0)
        self.assertEqual(DBTaskResult.objects.ready().count(), 2)

    def test_tasks_of_a_dead_worker_go_back_while_others_go_on(self) -> None:
        document, copy = self.left_under_way()
        tasks.weigh_document.enqueue(str(document.pk))
        tasks.make_copy.enqueue(str(copy.pk))
        about = DBTaskResult.objects.get(args_kwargs__args__0=str(document.pk))
        DBTaskResult.objects.update(status=TaskResultStatus.RUNNING, worker_ids=["alive"])
        DBTaskResult.objects.filter(pk=about.pk).update(worker_ids=["dead"])
        with patch.object(DatabaseQueue, "is_alive", staticmethod("alive".__eq__)):
            self.assertEqual(take_up_from_the_dead(), 1)
        document.refresh_from_db()
        copy.refresh_from_db()
        self.assertEqual((document.state, copy.state), ("waiting", "working"))
        self.assertEqual([task.pk for task in DBTaskResult.objects.ready()], [about.pk])

    def test_a_document_waiting_a_minute_without_a_task_gets_one(self) -> None:
        document, copy = self.left_under_way()
        for row in (document, copy):
            type(row).objects.filter(pk=row.pk).update(state="waiting")
        take_up_lost()
        self.assertEqual(DBTaskResult.objects.ready().count(), 0)
        for row in (document, copy):
            long_ago = timezone.now() - timedelta(minutes=2)
            QuerySet.update(type(row).objects.filter(pk=row.pk), changed_at=long_ago)
        for _ in range(2):
            take_up_lost()
            self.assertEqual(task_queue().waiting_about(), {str(document.pk), str(copy.pk)})
        self.assertEqual(task_queue().waiting().count, 2)

    def test_a_document_that_kills_its_worker_three_times_fails_with_advice(self) -> None:
        document, copy = self.left_under_way()
        tasks.weigh_document.enqueue(str(document.pk))
        tasks.make_copy.enqueue(str(copy.pk))
        DBTaskResult.objects.update(status=TaskResultStatus.RUNNING, worker_ids=["a", "b", "c"])
        take_up_from_the_dead()
        document.refresh_from_db()
        copy.refresh_from_db()
        self.assertEqual((document.state, copy.state), ("failed", "failed"))
        self.assertIn("Try again", document.error_message)
        self.assertEqual(DBTaskResult.objects.ready().count(), 0)


class Workers(TransactionTestCase):
    def test_workers_is_known_to_be_alive_as_long_as_it_lives(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            override_settings(WORKERS_LOCK_PATH=Path(folder) / "workers.lock"),
        ):
            self.assertFalse(is_alive("nobody"))
            with kept_alive("one"):
                self.assertTrue(is_alive("one"))
            self.assertFalse(is_alive("one"))
            code = (
                "import fcntl, sys, time; lock = open(sys.argv[1], 'w');"
                "fcntl.flock(lock, fcntl.LOCK_EX); print('held', flush=True); time.sleep(60)"
            )
            path = Path(folder) / "workers" / "killed.lock"
            command = [sys.executable, "-c", code, str(path)]
            with subprocess.Popen(command, stdout=subprocess.PIPE) as worker:
                assert worker.stdout is not None
                worker.stdout.readline()
                self.assertTrue(is_alive("killed"))
                worker.kill()
            self.assertFalse(is_alive("killed"))

    def test_only_the_first_of_a_machine_takes_work_up_again(self) -> None:
        with override_settings(WORKERS_LOCK_PATH=settings.VAR / "test-workers.lock"):
            settings.WORKERS_LOCK_PATH.parent.mkdir(parents=True, exist_ok=True)
            self.addCleanup(settings.WORKERS_LOCK_PATH.unlink)
            with (
                settings.WORKERS_LOCK_PATH.open("w") as first,
                settings.WORKERS_LOCK_PATH.open("w") as second,
            ):
                self.assertTrue(work._is_first(first))
                fcntl.flock(first, fcntl.LOCK_SH)
                self.assertFalse(work._is_first(second))
                fcntl.flock(first, fcntl.LOCK_UN)
                self.assertTrue(work._is_first(second))
