"""An installation: whom it lets in, where it may be served, how it is kept and looked after."""

import contextlib
import io
import os
import socket
import sqlite3
import subprocess
import sys
from pathlib import Path
from unittest import TestCase, mock

from host.backup import back_up
from host.command import main
from host.doctor import findings
from host.place import environment_of
from host.serve import commands_of, why_not_heard, why_unsafe
from tests.builders import FolderCase


def run(*arguments: str) -> tuple[int, str]:
    """In a process of its own, as Django is set up once in each."""
    environment = {name: value for name, value in os.environ.items() if "SATCHEL" not in name}
    environment.pop("DJANGO_SETTINGS_MODULE", None)
    ran = subprocess.run(
        [sys.executable, "-m", "host.command", *arguments],
        capture_output=True,
        text=True,
        env=environment,
        check=False,
    )
    return ran.returncode, ran.stdout + ran.stderr


class People(FolderCase):
    def test_people_are_added_listed_and_removed_and_the_installation_is_backed_up(self) -> None:
        data, password = self.folder / "data", self.folder / "password"
        told = ("--data", str(data))
        password.write_text("reeds and rushes\n")
        code, words = run("people", "add", "warden", "--password-file", str(password), *told)
        self.assertEqual((code, words), (0, "warden may sign in.\n"))
        self.assertEqual((data / "secret-key").stat().st_mode & 0o777, 0o600)
        password.write_text("warden\n")
        code, words = run("people", "add", "Warden", "--password-file", str(password), *told)
        self.assertEqual(code, 1)
        self.assertIn("there is a Warden already", words)
        code, words = run("people", "reset", "warden", "--password-file", str(password), *told)
        self.assertIn("too short", words)
        self.assertIn("warden", run("people", "list", *told)[1])
        (data / "files").mkdir()
        (data / "files" / "original").write_bytes(b"kept")
        back_up(data, self.folder / "backup")
        self.assertEqual((self.folder / "backup" / "files" / "original").read_bytes(), b"kept")
        self.assertEqual(run("people", "remove", "warden", "--yes", *told)[0], 0)
        # Back from the backup, the person is there again.
        with contextlib.closing(sqlite3.connect(self.folder / "backup/satchels.sqlite3")) as kept:
            self.assertEqual(kept.execute("PRAGMA integrity_check").fetchone(), ("ok",))
        code, words = run("people", "list", "--data", str(self.folder / "backup"))
        self.assertIn("warden", words)


class Backups(FolderCase):
    def test_backups_write_over_nothing_and_leave_nothing_half(self) -> None:
        with self.assertRaises(FileNotFoundError):
            back_up(self.folder, self.folder / "backup")
        (self.folder / "there").mkdir()
        with self.assertRaises(FileExistsError):
            back_up(self.folder, self.folder / "there")
        errors = io.StringIO()
        with contextlib.redirect_stderr(errors):
            code = main(["backup", str(self.folder / "new"), "--data", str(self.folder)])
        self.assertEqual((code, (self.folder / "new").exists()), (1, False))
        self.assertIn("there is no installation", errors.getvalue())


class Serving(TestCase):
    SAFE = {"GREEN_SATCHEL_SECRET_KEY": "x" * 60}

    def test_serving_is_refused_where_it_would_not_be_safe(self) -> None:
        cases = {
            "the demo signs everybody in": ("192.0.2.7", {"GREEN_SATCHEL_DEMO": "1"}),
            "passwords would go over the network": ("0.0.0.0", {}),
            "too short": ("127.0.0.1", {"GREEN_SATCHEL_SECRET_KEY": "short"}),
            "GREEN_SATCHEL_DEBUG": ("office.example", {"GREEN_SATCHEL_DEBUG": "1"}),
        }
        for words, (host, environment) in cases.items():
            with self.subTest(words):
                self.assertIn(words, why_unsafe(host, {**self.SAFE, **environment}))

    def test_serving_is_let_pass_where_it_is(self) -> None:
        for host, environment in (
            ("127.0.0.1", {}),
            ("::1", {"GREEN_SATCHEL_DEMO": "1"}),
            ("0.0.0.0", {"GREEN_SATCHEL_TLS": "1"}),
        ):
            self.assertEqual(why_unsafe(host, {**self.SAFE, **environment}), "")

    def test_serving_says_at_once_that_another_program_listens_there(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as other:
            port = other.getsockname()[1]
            self.assertIn("Choose another port", why_not_heard("127.0.0.1", port))
        self.assertEqual(why_not_heard("127.0.0.1", port), "")

    def test_serving_believes_a_proxy_only_where_there_is_one(self) -> None:
        plain = commands_of("127.0.0.1", 8000, 2, self.SAFE)
        self.assertEqual(len(plain), 3)
        self.assertFalse(any("proxy" in word for word in plain[0]))
        behind = commands_of("127.0.0.1", 8000, 1, {**self.SAFE, "GREEN_SATCHEL_TLS": "1"})
        self.assertIn("--trusted-proxy=127.0.0.1", behind[0])


class Places(FolderCase):
    def test_places_have_one_secret_for_good(self) -> None:
        with mock.patch.dict(os.environ):
            os.environ.pop("GREEN_SATCHEL_SECRET_KEY", None)
            first = environment_of(self.folder / "data")["GREEN_SATCHEL_SECRET_KEY"]
            again = environment_of(self.folder / "data")["GREEN_SATCHEL_SECRET_KEY"]
        self.assertEqual(first, again)
        self.assertGreater(len(first), 50)

    def test_places_have_no_secret_of_their_own_where_machines_share_one(self) -> None:
        with mock.patch.dict(os.environ, {"GREEN_SATCHEL_REDIS_URL": "redis://queue"}):
            os.environ.pop("GREEN_SATCHEL_SECRET_KEY", None)
            told = environment_of(self.folder / "data")
        self.assertNotIn("GREEN_SATCHEL_SECRET_KEY", told)
        self.assertFalse((self.folder / "data" / "secret-key").exists())

    def test_places_are_for_whoever_runs_them_alone(self) -> None:
        environment_of(self.folder / "data")
        self.assertEqual((self.folder / "data").stat().st_mode & 0o077, 0)


class OtherMachines(FolderCase):
    def told(self, *arguments: str, **environment: str) -> tuple[int, str]:
        errors = io.StringIO()
        with mock.patch.dict(os.environ, environment), contextlib.redirect_stderr(errors):
            os.environ.pop("GREEN_SATCHEL_SECRET_KEY", None)
            code = main([*arguments, "--data", str(self.folder / "data")])
        return code, errors.getvalue()

    def test_other_machines_say_what_they_do_not_share_yet(self) -> None:
        code, words = self.told("work")
        self.assertEqual(code, 2)
        self.assertIn("set GREEN_SATCHEL_REDIS_URL", words)
        for verb in ("work", "serve"):
            code, words = self.told(verb, GREEN_SATCHEL_REDIS_URL="redis://queue")
            self.assertEqual(code, 2)
            self.assertIn("GREEN_SATCHEL_DATABASE_URL and GREEN_SATCHEL_FILES", words)

    def test_back_their_database_up_by_its_own_tools(self) -> None:
        to = str(self.folder / "backup")
        code, words = self.told("backup", to, GREEN_SATCHEL_DATABASE_URL="postgresql://rows")
        self.assertEqual((code, Path(to).exists()), (2, False))
        self.assertIn("pg_dump", words)


class Doctor(FolderCase):
    def test_doctor_reports_missing_programs_with_what_to_do(self) -> None:
        (self.folder / "secret-key").write_text("x")
        (self.folder / "secret-key").chmod(0o644)
        with mock.patch("shutil.which", return_value=None):
            told = {finding.text: finding for finding in findings(Path(self.folder))}
        wrong = [finding for finding in told.values() if not finding.is_well]
        needed = [finding.text for finding in wrong if finding.is_needed]
        self.assertEqual(len(needed), 1)
        self.assertIn("chmod 600", needed[0])
        self.assertTrue(any("LibreOffice" in finding.text for finding in wrong))
