"""As gently as the limit allows, over the API: trials, fits, pieces, links."""

import hashlib
from typing import Any
from unittest.mock import patch

from django.contrib.auth import get_user_model
from django.test import Client
from django.utils import timezone

from tests.core.making.test_run_trials import album
from tests.web.cases import ApiCase
from web.satchels.models import Copy, Document, HandOver, Satchel
from web.satchels.serializers import SatchelSerializer
from web.satchels.tasks import make_copy, try_document


class LimitCase(ApiCase):
    """A satchel with one document of eight pictures, and a limit of three tenths of it."""

    def setUp(self) -> None:
        super().setUp()
        content = album(self.folder / "album-source.pdf", pages=4).path.read_bytes()
        self.document = self.upload(content, "album.pdf")["id"]
        self.limit = int(len(content) * 0.3)

    def choose(self, **choices: Any) -> Any:
        return self.send("patch", f"/api/satchels/{self.satchel}", choices)

    def run_over(self) -> Any:
        self.post(f"/api/satchels/{self.satchel}/runs", {})
        return self.shown()["documents"][0]["copy"]


class Trials(LimitCase):
    has_trials = True

    def test_trials_follow_weighing_and_every_choice_and_estimate_the_copy(self) -> None:
        (document,) = self.shown()["documents"]
        self.assertEqual(document["trial_progress"], 1)
        current = document["estimates"]["current"]
        self.assertLess(current["high"] - current["low"], 0.2 * current["bytes"])
        before = Document.objects.get(pk=self.document).version
        self.choose(preset="post")
        self.assertGreater(Document.objects.get(pk=self.document).version, before)
        (document,) = self.shown()["documents"]
        self.assertEqual(document["trial_progress"], 1)
        copy = self.run_over()
        foretold = document["estimates"]["current"]["bytes"]
        self.assertAlmostEqual(foretold / copy["bytes_after"], 1, delta=0.08)

    def test_trials_say_beforehand_what_a_fit_decides_and_what_is_lightest(self) -> None:
        satchel = self.choose(limit_bytes=self.limit, is_fitted=True)
        current = satchel["documents"][0]["estimates"]["current"]
        self.assertIsNone(current["lightest"])
        self.assertLessEqual(current["high"], self.limit)
        fit = self.send("get", f"/api/documents/{self.document}/fit")
        self.assertEqual((fit["is_met"], fit["limit"]), (True, self.limit))
        self.assertGreater(len(fit["pictures"]), 4)
        self.assertTrue(all(one["score"] >= fit["floor"] for one in fit["pictures"]))
        satchel = self.choose(limit_bytes=5000, fit_floor=80)
        self.assertGreater(satchel["documents"][0]["estimates"]["current"]["lightest"], 5000)

    def test_trials_give_way_to_copies_and_go_on_after_the_last_of_them(self) -> None:
        other = self.upload(album(self.folder / "other.pdf", pages=2).path.read_bytes(), "b.pdf")
        documents = Document.objects.filter(pk__in=[self.document, other["id"]])
        documents.update(trial_progress=0, trials={})
        with patch("web.satchels.copies.runs.start_copies"):
            self.post(f"/api/satchels/{self.satchel}/runs", {})
        for document in documents:
            try_document.call(str(document.pk))
        self.assertFalse(documents.filter(trial_progress=1).exists())
        first, last = Copy.objects.all()
        make_copy.call(str(first.pk))
        self.assertFalse(documents.filter(trial_progress=1).exists())
        make_copy.call(str(last.pk))
        self.assertEqual(documents.filter(trial_progress=1).count(), 2)


class Choices(ApiCase):
    def test_choices_of_two_on_their_way_at_once_neither_is_lost(self) -> None:
        stale = Satchel.objects.get(pk=self.satchel)
        self.send("patch", f"/api/satchels/{self.satchel}", {"limit_bytes": 2_000_000})
        told = SatchelSerializer(stale, data={"is_limit_shared": True}, partial=True)
        told.is_valid(raise_exception=True)
        told.save()
        now = Satchel.objects.get(pk=self.satchel)
        self.assertEqual((now.limit_bytes, now.is_limit_shared), (2_000_000, True))


class Fitting(LimitCase):
    def test_fitting_is_not_said_to_fail_before_pictures_have_been_tried(self) -> None:
        satchel = self.choose(limit_bytes=self.limit, is_fitted=True)
        current = satchel["documents"][0]["estimates"]["current"]
        self.assertTrue(current["is_open"])
        self.assertIsNone(current["lightest"])
        self.assertLessEqual(current["low"], self.limit)
        self.assertGreater(current["high"], self.limit)
        fit = self.send("get", f"/api/documents/{self.document}/fit")
        self.assertGreater(fit["untried"], 4)

    def test_a_limit_that_cannot_be_met_is_said(self) -> None:
        self.choose(limit_bytes=5000, is_fitted=True, fit_floor=80)
        copy = self.run_over()
        self.assertEqual((copy["state"], copy["error"]["code"]), ("failed", "does_not_fit"))
        self.assertIn("lightest", copy["error"]["message"])

    def test_a_document_over_the_limit_is_split_if_allowed(self) -> None:
        self.choose(limit_bytes=60_000, is_fitted=True, fit_floor=80, may_split=True)
        copy = self.run_over()
        self.assertGreater(len(copy["pieces"]), 1)
        for number, piece in enumerate(copy["pieces"], start=1):
            answer = self.api.get(f"/api/copies/{copy['id']}/file?piece={number}")
            content = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
            self.assertEqual(len(content), piece["bytes"])
            self.assertLessEqual(len(content), 60_000)
            self.assertIn(f"album-light-{number}-of-", answer["Content-Disposition"])
        self.assertEqual(self.api.get(f"/api/copies/{copy['id']}/file?piece=99").status_code, 404)

    def test_one_limit_for_all_together_is_kept_by_all_together(self) -> None:
        self.upload(self.report(), "report.pdf")
        total = int(sum(one["size_bytes"] for one in self.shown()["documents"]) * 0.3)
        self.choose(limit_bytes=total, is_limit_shared=True, is_fitted=True)
        self.post(f"/api/satchels/{self.satchel}/runs", {})
        copies = [one["copy"] for one in self.shown()["documents"]]
        self.assertEqual({one["state"] for one in copies}, {"done"})
        weight = sum(one["bytes_after"] for one in copies)
        self.assertTrue(0.9 * total <= weight <= total)

    def test_fitting_without_a_limit_there_is_nothing_to_fit(self) -> None:
        path = f"/api/satchels/{self.satchel}"
        refused = self.send("patch", path, {"is_fitted": True}, status=400)
        self.assertIn("limit", refused["detail"].lower() + str(refused))
        self.choose(limit_bytes=self.limit, is_fitted=True)
        self.assertFalse(self.choose(limit_bytes=None)["is_fitted"])


class Looking(LimitCase):
    def setUp(self) -> None:
        super().setUp()
        self.choose(limit_bytes=self.limit, is_fitted=True)
        self.copy = self.run_over()["id"]

    def test_a_fitted_copy_is_close_below_the_limit_and_its_proof_covers_every_page(self) -> None:
        copy = self.shown()["documents"][0]["copy"]
        self.assertTrue(0.93 * self.limit <= copy["bytes_after"] <= self.limit)
        self.assertTrue(copy["is_current"])
        proof = self.send("get", f"/api/copies/{self.copy}/proof")
        self.assertEqual(len(proof["places"]), 4)
        self.assertIn({"kind": "bookmarks", "before": 4, "after": 4}, proof["counts"])
        page = min(proof["places"], key=lambda one: one["likeness"])
        self.assertEqual((page["width_pt"], page["height_pt"]), (612, 792))
        self.assertTrue(page["pictures"] and page["worst"])
        self.assertTrue(all(page["text_same"] for page in proof["places"]))

    def test_pages_and_places_are_drawn_and_others_refused(self) -> None:
        for query in (
            "side=copy&page=1&dpi=20",
            "side=difference&page=1&dpi=50",
            "side=original&page=2&dpi=220&box=60,450,132,522",
        ):
            with self.subTest(query=query):
                answer = self.api.get(f"/api/copies/{self.copy}/drawing?{query}")
                content = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
                self.assertTrue(content.startswith(b"\x89PNG"))
        for query in (
            "side=copy&page=0&dpi=50",
            "side=copy&page=1&dpi=2e175",
            "side=other&page=1&dpi=50",
            "side=copy&page=1&dpi=99999",
            "side=copy&page=1&dpi=nan",
            "side=copy&page=1&dpi=50&box=1,2,3",
            "side=copy&page=1&dpi=50&box=9,9,1,1",
            "side=copy&page=1&dpi=1200&box=0,0,9000,9000",
            "page=1",
        ):
            with self.subTest(query=query):
                answer = self.api.get(f"/api/copies/{self.copy}/drawing?{query}")
                self.assertEqual(answer.status_code, 422)
        answer = self.api.get(f"/api/copies/{self.copy}/drawing?side=copy&page=77&dpi=50")
        self.assertEqual(answer.status_code, 404)

    def test_gentler_leaves_the_picture_and_still_fits(self) -> None:
        proof = self.send("get", f"/api/copies/{self.copy}/proof")
        pictures = [one for page in proof["places"] for one in page["pictures"]]
        treated = next(one for one in pictures if one["after"] < one["before"])
        self.post(f"/api/copies/{self.copy}/gentler", {"parts": [treated["id"]]})
        copy = self.shown()["documents"][0]["copy"]
        self.assertNotEqual(copy["id"], self.copy)
        self.assertLessEqual(copy["bytes_after"], self.limit)
        parts = {part["id"]: part for part in Copy.objects.get(pk=copy["id"]).parts}
        self.assertEqual(parts[treated["id"]]["bytes_after"], treated["before"])
        self.post(f"/api/copies/{self.copy}/gentler", {"parts": ["picture:9-9"]}, status=404)

    def test_looking_can_be_kept(self) -> None:
        for ending, start in (("pdf", b"%PDF-"), ("json", b"{")):
            answer = self.api.get(f"/api/copies/{self.copy}/proof.{ending}")
            content = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
            self.assertTrue(content.startswith(start))

    def downloaded(self, client: Client, link: Any, *, status: int = 200, **headers: str) -> bytes:
        answer = client.get(f"{link['address']}/file", headers=headers)
        self.assertEqual(answer.status_code, status)
        self.assertIn("attachment", answer["Content-Disposition"])
        return b"".join(answer.streaming_content)  # type: ignore[attr-defined]

    def test_a_link_may_ask_for_a_password_and_ends_where_somebody_guesses(self) -> None:
        link = self.post(f"/api/copies/{self.copy}/hand-overs", {"password": " reed bed"})
        self.assertTrue(link["has_password"])
        stranger = Client()
        self.assertNotContains(stranger.get(link["address"]), "album")
        away = stranger.get(f"{link['address']}/file")
        self.assertRedirects(away, link["address"])
        self.assertContains(stranger.post(link["address"], {"password": "x"}), "not it")
        stranger.post(link["address"], {"password": " reed bed"})
        self.assertContains(stranger.get(link["address"]), "album-light.pdf")
        self.assertGreater(len(self.downloaded(stranger, link)), 1000)
        HandOver.objects.update(wrong_tries=19)
        Client().post(link["address"], {"password": "y"})
        self.assertEqual(stranger.get(link["address"]).status_code, 404)

    def test_a_link_opens_the_copy_to_whoever_has_it_until_it_ends(self) -> None:
        link = self.post(f"/api/copies/{self.copy}/hand-overs")
        stranger = Client()
        page = stranger.get(link["address"])
        content = self.downloaded(stranger, link)
        self.assertEqual(len(content), self.shown()["documents"][0]["copy"]["bytes_after"])
        for told in ("album-light.pdf", hashlib.sha256(content).hexdigest(), f"{len(content)}"):
            self.assertContains(page, told)
        self.assertEqual(HandOver.objects.get().downloads, 1)
        # Whoever broke off goes on where it broke (RFC 9110, 14).
        for told, part in (("bytes=9-40", content[9:41]), ("bytes=-7", content[-7:])):
            self.assertEqual(self.downloaded(stranger, link, Range=told, status=206), part)
        self.assertEqual(self.downloaded(stranger, link, Range="bytes=5-1"), content)
        far = stranger.get(f"{link['address']}/file", headers={"Range": f"bytes={10**9}-"})
        self.assertEqual(far.status_code, 416)
        other = {"Range": "bytes=9-40", "If-Range": '"another"'}
        self.assertEqual(self.downloaded(stranger, link, **other), content)
        self.send("post", f"/api/hand-overs/{link['id']}/revoke")
        self.assertEqual(stranger.get(f"{link['address']}/file").status_code, 404)
        ended = stranger.get(link["address"])
        self.assertEqual(ended.status_code, 404)
        self.assertContains(ended, "has ended", status_code=404)
        self.assertEqual(stranger.get("/hand-over/guessed").status_code, 404)
        self.assertLessEqual(HandOver.objects.get().ends_at, timezone.now())
        # Nothing of it is shown to other accounts.
        self.api.force_authenticate(get_user_model().objects.create_user("other"))
        for path in ("proof", "proof.pdf", "hand-overs", "drawing?side=copy&page=1&dpi=20"):
            self.assertEqual(self.api.get(f"/api/copies/{self.copy}/{path}").status_code, 404)
        revoking = self.api.post(f"/api/hand-overs/{link['id']}/revoke")
        self.assertEqual(revoking.status_code, 404)
