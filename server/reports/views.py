"""What a link shows without a log-in: the newest version of its report, the earlier ones, their files; nothing else."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, cast

from csp.constants import NONE, SELF, UNSAFE_INLINE
from csp.decorators import csp
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_http_methods, require_safe

from reports.models import Share, Version
from reports.rendering import style
from reports.shares import ShareError, count_view, let_in, opened, try_password
from runs import store

TYPES = {"html": "text/html; charset=utf-8", "pdf": "application/pdf", "package": "application/zip"}
SUFFIXES = {"html": "html", "pdf": "pdf", "package": "zip"}
POLICY = {
    "default-src": [NONE],
    "style-src": [UNSAFE_INLINE],
    "img-src": ["data:"],
    "font-src": ["data:"],
    "form-action": [SELF],
    "base-uri": [NONE],
    "frame-ancestors": [NONE],
}
View = Callable[..., HttpResponse]
paper: Callable[[View], View] = cast(Any, csp(POLICY))  # a report has no script, and asks nothing of any other place


def _closed(view: View) -> View:
    """Kept out of caches, indexes and other pages' logs; says in a sentence why a link shows nothing."""

    @paper
    @wraps(view)
    def guarded(request: HttpRequest, secret: str, **asked: Any) -> HttpResponse:
        try:
            answer = view(request, opened(secret), secret, **asked)
        except ShareError as error:
            answer = _notice(request, "Nothing to show", str(error), status=404)
        answer.headers["X-Robots-Tag"] = "noindex, nofollow, noarchive"
        answer.headers["Referrer-Policy"] = "same-origin"  # with none at all a browser's form has no origin either
        answer.headers["Cache-Control"] = "no-store"
        return answer

    return guarded


def _notice(request: HttpRequest, title: str, sentence: str, status: int = 200, ask: bool = False) -> HttpResponse:
    shown = {"title": title, "sentence": sentence, "ask": ask, "style": style()}
    return render(request, "reports/notice.html", shown, status=status)


@_closed
@require_http_methods(["GET", "HEAD", "POST"])
def shared(request: HttpRequest, share: Share, secret: str) -> HttpResponse:
    """The newest version, or the one that is asked for."""
    asked = request.method == "POST" and share.password
    if asked and (wrong := try_password(request, share, request.POST.get("password", ""))):
        return _notice(request, "A report with a password", wrong, status=403, ask=True)
    if not let_in(request, share):
        return _notice(request, "A report with a password", "Whoever sent the link has it.", ask=True)
    version = _version(share, request.GET.get("version", ""))
    count_view(request, share, f"version {version.number}")
    page = store.read(version.html_sha256).decode()
    return HttpResponse(page.replace("<body>", f"<body>{_links(request, version, secret)}", 1))


def _links(request: HttpRequest, version: Version, secret: str) -> str:
    """What stands above the report on its shared page, and is no part of it."""
    numbers = list(version.report.versions.values_list("number", flat=True))
    kinds = [("pdf", "PDF"), ("html", "one file"), *([("package", "data package")] if version.package_sha256 else [])]
    shown = {
        "files": [(f"/shared/{secret}/{kind}/{version.number}/", name) for kind, name in kinds],
        "others": [(f"/shared/{secret}/?version={number}", number) for number in numbers if number != version.number],
        "newest": version.number == max(numbers),
        "number": version.number,
    }
    return render(request, "reports/links.html", shown).content.decode()


def _version(share: Share, asked: str) -> Version:
    """The version of a number; the newest where none is asked for. Raises ShareError where there is none."""
    versions = share.report.versions.all()
    wanted = versions.filter(number=int(asked)) if asked.isdecimal() and len(asked) < 6 else versions.none()
    found = wanted.first() if asked else versions.first()
    if found is None:
        raise ShareError("There is no such version of this report.")
    return found


@_closed
@require_safe
def shared_file(request: HttpRequest, share: Share, secret: str, kind: str, number: int) -> HttpResponse:
    """One of a version's files."""
    if not let_in(request, share):
        raise ShareError("This report has a password: open its link first.")
    version = _version(share, str(number))
    count_view(request, share, f"{kind} of version {number}")
    return file_of(version, kind)


def file_of(version: Version, kind: str) -> HttpResponse:
    """A version's file, to be saved. Raises Http404 where it has none of the kind."""
    sha256 = getattr(version, f"{kind}_sha256")
    if not sha256:
        raise Http404
    return saved(version, store.read(sha256), TYPES[kind], SUFFIXES[kind])


def saved(version: Version, data: bytes, media_type: str, suffix: str) -> HttpResponse:
    """Bytes of a version under a name that says which."""
    name = f"report-{version.report_id}-version-{version.number}.{suffix}"
    return HttpResponse(
        data, content_type=media_type, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
