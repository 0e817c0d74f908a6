"""Photographs and PDFs without what would tell where or with what they were made, and without anything that acts.

Runs in a process of its own, `python -m runs.stripping`, within bounds of memory and time: a small file can ask for
gigabytes. The file comes in on standard input and the stripped one leaves on standard output; a sentence on standard
error says why there is none.
"""

from __future__ import annotations

import io
import logging
import resource
import subprocess
import sys
import threading
from typing import Any

MOST_PIXELS = 50_000_000
MOST_MEMORY_BYTES = 1536 * 1024**2
MOST_CPU_S = 30
LIMIT_S = 60.0
AT_ONCE = threading.BoundedSemaphore(2)
JPEG_QUALITY = 90
IMAGES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
PDF = "application/pdf"
REFUSED = 3
UNREADABLE = "is no JPEG, PNG, WebP or PDF that can be read."
TOO_MUCH = "takes too much memory or time to read."
PRIVATE = (b"Exif\x00\x00", b"http://ns.adobe.com/xap/1.0/\x00", b"http://ns.adobe.com/xmp/extension/\x00")
# What a PDF does by itself or on a click, and files inside of it.
ACTING = (
    "/A",
    "/AA",
    "/PA",
    "/OpenAction",
    "/JavaScript",
    "/JS",
    "/EmbeddedFiles",
    "/EF",
    "/XFA",
    "/Metadata",
    "/PieceInfo",
)


class CantStripError(ValueError):
    """A file that can't be kept; its text is the end of a sentence that begins with its name."""


def stripped_apart(data: bytes) -> tuple[bytes, str]:
    """A file stripped in a process of its own, and its media type. Raises CantStripError."""
    child = [sys.executable, "-m", "runs.stripping"]
    with AT_ONCE:
        try:
            done = subprocess.run(child, input=data, capture_output=True, timeout=LIMIT_S, check=False)
        except subprocess.TimeoutExpired:
            raise CantStripError(TOO_MUCH) from None
    if done.returncode == REFUSED:
        raise CantStripError(done.stderr.decode(errors="replace").strip().splitlines()[-1])
    if done.returncode:
        raise CantStripError(TOO_MUCH)
    media_type, _, kept = done.stdout.partition(b"\n")
    return kept, media_type.decode()


def stripped(data: bytes) -> tuple[bytes, str]:
    """A file without private details or anything that acts, and its media type. Raises CantStripError."""
    if data.startswith(b"%PDF-"):
        return _stripped_pdf(data), PDF
    return _stripped_image(data)


def _stripped_image(data: bytes) -> tuple[bytes, str]:
    """The picture alone, turned as the camera was held: drawn anew, so that nothing else comes along."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    Image.MAX_IMAGE_PIXELS = MOST_PIXELS
    try:
        with Image.open(io.BytesIO(data), formats=list(IMAGES)) as picture:
            kind = str(picture.format)
            if picture.width * picture.height > MOST_PIXELS:
                raise CantStripError(f"has more than {MOST_PIXELS // 1_000_000} million pixels.")
            upright = ImageOps.exif_transpose(picture)
            plain = Image.new(upright.mode, upright.size)
            if upright.mode == "P":
                plain.putpalette(upright.getpalette() or [])
            plain.paste(upright)
    except CantStripError:
        raise
    except Image.DecompressionBombError:
        raise CantStripError(f"has more than {MOST_PIXELS // 1_000_000} million pixels.") from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        raise CantStripError(UNREADABLE) from None
    out = io.BytesIO()
    plain.save(out, kind, **({"quality": JPEG_QUALITY} if kind != "PNG" else {}))
    return out.getvalue(), IMAGES[kind]


def _stripped_pdf(data: bytes) -> bytes:
    """The pages without the document's own particulars and actions, and their photographs without theirs."""
    from pypdf import PdfReader, PdfWriter
    from pypdf.errors import PyPdfError

    logging.getLogger("pypdf").setLevel(logging.CRITICAL)  # it warns of every damaged file
    try:
        reader = PdfReader(io.BytesIO(data))
        if reader.is_encrypted:
            raise CantStripError("is locked with a password.")
        writer = PdfWriter()
        for page in reader.pages:
            writer.add_page(page)
        writer.metadata = None
        for found in writer._objects:
            _make_inert(found)
        out = io.BytesIO()
        writer.write(out)
    except CantStripError:
        raise
    except (PyPdfError, OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        raise CantStripError(UNREADABLE) from None
    return out.getvalue()


def _make_inert(found: Any) -> None:
    """Take out of an object, and of those inside of it, what acts; of a photograph, its private details."""
    from pypdf.generic import StreamObject

    if isinstance(found, StreamObject) and found.get("/Filter") == "/DCTDecode":
        found._data = without_exif(found._data)
    inside = [found]
    while inside:
        each = inside.pop()
        if isinstance(each, dict):
            for name in ACTING:
                each.pop(name, None)
            inside.extend(each.values())
        elif isinstance(each, list):
            inside.extend(each)


def without_exif(jpeg: bytes) -> bytes:
    """A JPEG without its segments of camera and place, in one pass over its head (ITU-T T.81, annex B)."""
    out, at = bytearray(jpeg[:2]), 2
    while at + 4 <= len(jpeg) and jpeg[at] == 0xFF:
        marker, size = jpeg[at + 1], int.from_bytes(jpeg[at + 2 : at + 4], "big")
        if marker in (0xDA, 0xD9) or size < 2:  # the picture itself begins, or there is none
            break
        segment = jpeg[at : at + 2 + size]
        if marker != 0xE1 or not segment[4:].startswith(PRIVATE):
            out += segment
        at += 2 + size
    return bytes(out) + jpeg[at:]


def _child() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY_BYTES, MOST_MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_CPU_S, MOST_CPU_S))
    try:
        kept, media_type = stripped(sys.stdin.buffer.read())
    except CantStripError as error:
        print(error, file=sys.stderr)
        return REFUSED
    except MemoryError:
        print(TOO_MUCH, file=sys.stderr)
        return REFUSED
    sys.stdout.buffer.write(media_type.encode() + b"\n" + kept)
    return 0


if __name__ == "__main__":
    sys.exit(_child())
