"""Photographs and PDFs that go with a run, kept without what would tell where or with what they were made."""

from __future__ import annotations

import hashlib
import io
import logging
import re

from accounts.models import User
from runs import store
from runs.models import Attachment, Run

logging.getLogger("pypdf").setLevel(logging.CRITICAL)  # it tells of every damaged file
LARGEST_BYTES = 20 * 1024**2
MOST_PIXELS = 60_000_000
JPEG_QUALITY = 90
IMAGES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
PDF = "application/pdf"
EXIF_SEGMENT = re.compile(rb"\xff\xe1(..)(?:Exif\x00\x00|http://ns\.adobe\.com/xap/1\.0/\x00)", re.DOTALL)


class CantAttachError(ValueError):
    """A file that can't be attached; its text is a sentence."""


def attach(run: Run, name: str, data: bytes, person: User) -> Attachment:
    """Keep a file with a run, stripped. Raises CantAttachError where it is no photograph or PDF that can be read."""
    if len(data) > LARGEST_BYTES:
        raise CantAttachError(f"{name} is larger than {LARGEST_BYTES // 1024**2} MB.")
    kept, media_type = _stripped(name, data)
    sha256 = hashlib.sha256(kept).hexdigest()
    store.keep(kept, sha256)
    return Attachment.objects.create(
        run=run, name=name[-255:], sha256=sha256, size_bytes=len(kept), media_type=media_type, added_by=person
    )


def _stripped(name: str, data: bytes) -> tuple[bytes, str]:
    if data.startswith(b"%PDF-"):
        return _stripped_pdf(name, data), PDF
    return _stripped_image(name, data)


def _stripped_image(name: str, data: bytes) -> tuple[bytes, str]:
    """The picture alone, turned as the camera was held: drawn anew, so that nothing else comes along."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with Image.open(io.BytesIO(data), formats=list(IMAGES)) as picture:
            kind = str(picture.format)
            if picture.width * picture.height > MOST_PIXELS:
                raise CantAttachError(f"{name} has more than {MOST_PIXELS // 1_000_000} million pixels.")
            upright = ImageOps.exif_transpose(picture)
            plain = Image.new(upright.mode, upright.size)
            if upright.mode == "P":
                plain.putpalette(upright.getpalette() or [])
            plain.paste(upright)
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        if isinstance(error, CantAttachError):
            raise
        raise CantAttachError(f"{name} is no JPEG, PNG, WebP or PDF that can be read.") from None
    out = io.BytesIO()
    plain.save(out, kind, **({"quality": JPEG_QUALITY} if kind != "PNG" else {}))
    return out.getvalue(), IMAGES[kind]


def _stripped_pdf(name: str, data: bytes) -> bytes:
    """The pages without the document's own particulars, and their photographs without theirs."""
    from pypdf import PdfReader, PdfWriter
    from pypdf.errors import PyPdfError
    from pypdf.generic import StreamObject

    try:
        reader = PdfReader(io.BytesIO(data))
        if reader.is_encrypted:
            raise CantAttachError(f"{name} is locked with a password.")
        writer = PdfWriter()
        for page in reader.pages:
            writer.add_page(page)
        writer.metadata = None
        for found in writer._objects:
            if isinstance(found, StreamObject) and found.get("/Filter") == "/DCTDecode":
                found._data = without_exif(found._data)
            if isinstance(found, dict):
                found.pop("/Metadata", None)
        out = io.BytesIO()
        writer.write(out)
    except (PyPdfError, OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        if isinstance(error, CantAttachError):
            raise
        raise CantAttachError(f"{name} is no PDF that can be read.") from None
    return out.getvalue()


def without_exif(jpeg: bytes) -> bytes:
    """A JPEG without its segments of camera and place."""
    while found := EXIF_SEGMENT.search(jpeg):
        size = int.from_bytes(found[1], "big")
        jpeg = jpeg[: found.start()] + jpeg[found.start() + 2 + size :]
    return jpeg
