"""Copies handed over by mail: downloaded, or sent; read by Python's email package."""

from email import message_from_bytes, policy
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.core import mail
from django.core.files.base import ContentFile
from django.test import override_settings

from tests.web.cases import ApiCase
from web.mail.models import Sending
from web.mail.tasks import send_messages
from web.satchels.models import Copy, Document, Run, Satchel

_TO = ["office@example.org", "clerk@example.org"]


@override_settings(HAS_MAIL=True)
class Mail(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        satchel = Satchel.objects.get()
        run = Run.objects.create(satchel=satchel, preset="reading-desk")
        for name in ("nest.jpg", "reeds.jpg"):
            document = Document.objects.create(
                satchel=satchel,
                name=name,
                size_bytes=300_000,
                state=Document.State.WEIGHED,
                facts={"format": "picture", "media_type": "image/jpeg"},
            )
            copy = Copy(
                run=run,
                document=document,
                state=Copy.State.DONE,
                media_type="image/jpeg",
                bytes_after=60_000,
                verdict="close",
            )
            copy.file.save("copy", ContentFile(bytes(60_000)))
        self.path = f"/api/runs/{run.pk}/mail"

    def told(self) -> Any:
        return self.send("get", self.path)

    def message(self, number: int) -> Any:
        answer = self.api.get(f"{self.path}/{number}.eml")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("attachment", answer["Content-Disposition"])
        content = answer.getvalue()
        return content, message_from_bytes(content, policy=policy.default)

    def test_one_message_holds_the_copies_and_says_what_was_done(self) -> None:
        (told,) = self.told()["messages"]
        content, message = self.message(1)
        self.assertEqual(len(content), told["size_bytes"])
        self.assertEqual(message["Subject"], "Season")
        names = [part.get_filename() for part in message.iter_attachments()]
        self.assertEqual(names, told["files"])
        self.assertEqual(len(names), 2)
        body = message.get_body().get_content()
        self.assertRegex(body, r"nest.jpg: \d+ kB -> \d+ kB, (looks the same|pictures differ)")
        self.assertEqual(self.api.get(f"{self.path}/2.eml").status_code, 404)

    def test_files_of_one_name_from_several_folders_are_distinguished(self) -> None:
        Document.objects.update(name="nest.jpg")
        _, message = self.message(1)
        names = [part.get_filename() for part in message.iter_attachments()]
        self.assertEqual(names, ["nest-light.jpg", "nest-light 2.jpg"])

    def test_a_file_deleted_meanwhile_is_not_found(self) -> None:
        Copy.objects.first().path.unlink()  # type: ignore[union-attr] # there are two
        answer = self.send("get", self.path, status=404)
        self.assertEqual(answer["code"], "gone")

    def test_several_where_one_would_be_too_heavy(self) -> None:
        size = self.told()["messages"][0]["size_bytes"]
        Satchel.objects.update(limit_bytes=size - 1, limit_carrier="message")
        messages = self.told()["messages"]
        subjects = [one["subject"] for one in messages]
        self.assertEqual(subjects, ["Season (1 of 2)", "Season (2 of 2)"])
        self.assertTrue(all(one["fits"] for one in messages))

    def test_sent_to_those_who_were_named_once(self) -> None:
        sending = self.post(f"{self.path}/send", {"receivers": [*_TO, _TO[0]]})
        self.assertEqual([one.to for one in mail.outbox], [_TO])
        self.assertEqual(len(mail.outbox[0].attachments), 2)
        (told,) = self.told()["sendings"]
        self.assertEqual((told["state"], told["messages"]), ("sent", 1))
        send_messages.call(sending["id"])
        self.assertEqual(len(mail.outbox), 1)

    def test_a_refusing_mail_server_is_reported(self) -> None:
        with mock.patch("web.mail.tasks.EmailMessage.send", side_effect=OSError("refused")):
            self.post(f"{self.path}/send", {"receivers": _TO})
        (told,) = self.told()["sendings"]
        self.assertEqual(told["state"], "failed")
        self.assertIn("refused", told["error_message"])

    def test_nothing_goes_without_a_server_or_to_no_address(self) -> None:
        for wrong in ([], ["nobody"], ["a@example.org\nBcc: b@example.org"], ["a@x.org"] * 21):
            with self.subTest(wrong):
                self.post(f"{self.path}/send", {"receivers": wrong}, status=400)
        with override_settings(HAS_MAIL=False):
            self.assertFalse(self.told()["can_send"])
            self.post(f"{self.path}/send", {"receivers": _TO}, status=409)
        with override_settings(MAIL_LIMIT_AN_HOUR=0):
            self.post(f"{self.path}/send", {"receivers": _TO}, status=429)
        self.assertEqual((len(mail.outbox), Sending.objects.count()), (0, 0))

    def test_mail_that_of_others_is_not_there(self) -> None:
        self.api.force_authenticate(get_user_model().objects.create_user("other"))
        self.send("get", self.path, status=404)
        self.post(f"{self.path}/send", {"receivers": _TO}, status=404)
        self.assertEqual(self.api.get(f"{self.path}/1.eml").status_code, 404)
