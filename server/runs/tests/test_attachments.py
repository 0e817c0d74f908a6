"""Photographs and PDFs of a run: kept without place or camera, refused where they are something else."""

from __future__ import annotations

import io
import subprocess
import sys
from unittest import mock

from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image
from pypdf import PdfReader, PdfWriter
from pypdf.generic import ArrayObject, DictionaryObject, NameObject, TextStringObject
from rest_framework.test import APIClient

from accounts.models import Role
from runs.models import Attachment
from runs.store import address
from runs.stripping import without_exif
from runs.tests.factories import RunFactory, UserFactory

GPS, MAKE, ORIENTATION = 0x8825, 0x010F, 0x0112


def photograph(kind: str = "JPEG", size: tuple[int, int] = (40, 20)) -> bytes:
    """A picture with a place, a camera, and a note that it was held on its side."""
    picture = Image.new("RGB", size, (200, 30, 30))
    exif = Image.Exif()
    exif[MAKE], exif[ORIENTATION] = "Invented Camera Works", 6
    exif.get_ifd(GPS)[2] = (51.0, 18.0, 36.0)
    out = io.BytesIO()
    picture.save(out, kind, exif=exif)
    return out.getvalue()


def document() -> bytes:
    """A PDF with an author, and a page with a photograph that tells where it was taken."""
    page = io.BytesIO()
    Image.open(io.BytesIO(photograph())).save(page, "PDF", exif=Image.open(io.BytesIO(photograph())).getexif())
    writer = PdfWriter(clone_from=io.BytesIO(page.getvalue()))
    writer.add_metadata({"/Author": "R. Quill of Brackmoor", "/Title": "sheet"})
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()


class AttachmentTest(TestCase):
    def setUp(self):
        self.person = UserFactory()
        self.run_ = RunFactory()
        self.client = APIClient()
        self.log_in(self.person)

    def log_in(self, person):
        self.client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")

    def attach(self, name: str, data: bytes, code: int = 201) -> dict:
        given = {"file": SimpleUploadedFile(name, data)}
        answer = self.client.post(reverse("attachment-list"), given | {"run": self.run_.pk}, format="multipart")
        self.assertEqual(answer.status_code, code, answer.content)
        return answer.json()

    def kept(self) -> bytes:
        with default_storage.open(address(Attachment.objects.get().sha256)) as file:
            return file.read()

    def test_a_photograph_loses_its_place_and_camera_and_stands_upright(self):
        for kind in ("JPEG", "PNG", "WEBP"):
            with self.subTest(kind):
                Attachment.objects.all().delete()
                self.attach("dash.jpg", photograph(kind))
                picture = Image.open(io.BytesIO(self.kept()))
                self.assertEqual((picture.format, picture.size, dict(picture.getexif())), (kind, (20, 40), {}))
                self.assertNotIn(b"Invented Camera", self.kept())

    def test_a_pdf_loses_its_author_and_its_photographs_their_place(self):
        self.attach("sheet.pdf", document())
        self.assertNotIn(b"Quill", self.kept())
        self.assertNotIn(b"Invented Camera", self.kept())
        self.assertEqual(len(PdfReader(io.BytesIO(self.kept())).pages), 1)

    def test_segments_of_camera_and_place_are_cut_out_of_a_jpeg(self):
        bare = without_exif(photograph())
        self.assertNotIn(b"Exif", bare)
        self.assertEqual(Image.open(io.BytesIO(bare)).size, (40, 20))

    def test_what_is_neither_is_refused_with_the_name_of_the_file(self):
        for name, data in (
            ("notes.txt", b"plain words"),
            ("half.jpg", photograph()[:60]),
            ("torn.pdf", b"%PDF-1.4 torn"),
        ):
            with self.subTest(name):
                self.assertIn(name, self.attach(name, data, 400)["errors"]["file"][0])
        self.assertEqual(Attachment.objects.count(), 0)

    def test_it_shows_on_the_run_and_is_read_as_what_it_is(self):
        made = self.attach("dash.jpg", photograph())
        run = self.client.get(reverse("run-detail", args=[self.run_.pk])).json()
        self.assertEqual([each["name"] for each in run["attachments"]], ["dash.jpg"])
        answer = self.client.get(reverse("attachment-file", args=[made["id"]]))
        self.assertEqual((answer["Content-Type"], answer.content), ("image/jpeg", self.kept()))
        self.assertIn("sandbox", answer["Content-Security-Policy"])

    def test_only_who_attached_it_takes_it_away(self):
        made = self.attach("dash.jpg", photograph())
        self.log_in(UserFactory())
        self.assertEqual(self.client.delete(reverse("attachment-detail", args=[made["id"]])).status_code, 403)
        self.log_in(UserFactory(role=Role.READER))
        self.attach("dash.jpg", photograph(), 403)
        self.log_in(self.person)
        self.assertEqual(self.client.delete(reverse("attachment-detail", args=[made["id"]])).status_code, 204)
        self.assertEqual(Attachment.objects.count(), 0)


class BoundsTest(AttachmentTest):
    """Small files that ask for much."""

    def test_a_million_markers_are_cut_out_in_one_pass(self):
        """A quadratic way through these took 55 s for a megabyte: the bound is on the work, not on a clock."""
        segment = b"\xff\xe1" + (10).to_bytes(2, "big") + b"Exif\x00\x00ab"
        jpeg = b"\xff\xd8" + segment * 80_000 + b"\xff\xda rest"

        class Counted(bytes):
            taken = 0

            def __getitem__(self, key):
                found = bytes.__getitem__(self, key)
                Counted.taken += len(found) if isinstance(key, slice) else 1
                return found

        self.assertEqual(without_exif(Counted(jpeg)), b"\xff\xd8\xff\xda rest")
        self.assertLess(Counted.taken, 3 * len(jpeg))

    def test_a_picture_of_too_many_pixels_is_refused_by_its_head(self):
        out = io.BytesIO()
        Image.new("1", (10_000, 6_000)).save(out, "PNG")
        self.assertLess(len(out.getvalue()), 100_000)
        refused = self.attach("wall.png", out.getvalue(), 400)["errors"]["file"][0]
        self.assertEqual(refused, "wall.png has more than 50 million pixels.")

    def test_what_takes_too_much_memory_or_time_ends_in_its_own_process(self):
        from runs import stripping

        with mock.patch.object(stripping, "LIMIT_S", 0.001):
            self.assertIn("too much memory or time", self.attach("dash.jpg", photograph(), 400)["detail"])
        script = (
            "import resource, runs.stripping as s; s.MOST_MEMORY_BYTES = 60 * 1024**2; raise SystemExit(s._child())"
        )
        out = io.BytesIO()
        Image.new("RGB", (6_000, 6_000)).save(out, "PNG")
        done = subprocess.run([sys.executable, "-c", script], input=out.getvalue(), capture_output=True, check=False)
        self.assertNotEqual(done.returncode, 0)
        self.assertEqual(done.stdout, b"")

    def test_an_upload_over_the_limit_is_refused_and_nothing_kept(self):
        with self.settings(MAX_ATTACHMENT_BYTES=1000):
            self.assertEqual(self.attach("dash.jpg", photograph(size=(400, 400)), 413)["code"], "too_large")
        self.assertEqual(Attachment.objects.count(), 0)

    def test_a_name_loses_marks_of_direction_and_folders(self):
        self.attach("../../\u202egnp.exe\u202c.jpg", photograph())
        self.assertEqual(Attachment.objects.get().name, "gnp.exe.jpg")

    def test_a_pdf_does_nothing_by_itself_and_is_not_opened_in_the_page(self):
        writer = PdfWriter(clone_from=io.BytesIO(document()))
        page = writer.pages[0]
        script = DictionaryObject(
            {NameObject("/S"): NameObject("/JavaScript"), NameObject("/JS"): TextStringObject("runme")}
        )
        writer._root_object[NameObject("/OpenAction")] = script
        page[NameObject("/PA")] = script
        launch = DictionaryObject({NameObject("/S"): NameObject("/Launch"), NameObject("/F"): TextStringObject("calc")})
        away = DictionaryObject(
            {NameObject("/S"): NameObject("/URI"), NameObject("/URI"): TextStringObject("elsewhere")}
        )
        page[NameObject("/AA")] = DictionaryObject({NameObject("/O"): launch})
        link = DictionaryObject(
            {
                NameObject("/Type"): NameObject("/Annot"),
                NameObject("/Subtype"): NameObject("/Link"),
                NameObject("/A"): away,
            }
        )
        page[NameObject("/Annots")] = ArrayObject([writer._add_object(link)])
        writer.add_attachment("inside.exe", b"a program")
        out = io.BytesIO()
        writer.write(out)
        made = self.attach("sheet.pdf", out.getvalue())
        for word in (b"JavaScript", b"runme", b"/Launch", b"elsewhere", b"a program"):
            self.assertIn(word, out.getvalue())
            self.assertNotIn(word, self.kept())
        answer = self.client.get(reverse("attachment-file", args=[made["id"]]))
        self.assertIn("attachment", answer["Content-Disposition"])
