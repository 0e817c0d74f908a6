"""The one class: a Coombe that somebody serves."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import IO, Any

import requests

from coombe_client.answers import Car, Comparison, Difference, Measured, Run, Setup, Upload, Verdict, of
from coombe_client.errors import CoombeError, NotDoneError

LOGS = (".nmea", ".txt", ".log", ".csv", ".ubx", ".gpx", ".parquet", ".json", ".jsonl")
PAGE = 500
PIECE_BYTES = 1 << 16


class Coombe:
    """A Coombe under its address, used in the name of whoever made the token.

    Parameters
    ----------
    address : str
        Such as `http://127.0.0.1:8642`.
    token : str
        Made under *Access tokens*; its role says what may be done.
    timeout_s : float
        How long to wait for any one answer.
    verify : bool or str
        A file with the certificate, where Coombe serves HTTPS with one of its own.
    """

    def __init__(self, address: str, token: str, timeout_s: float = 60.0, verify: bool | str = True) -> None:
        self._address, self._timeout_s = address.rstrip("/"), timeout_s
        self._session = requests.Session()
        self._session.headers["Authorization"] = f"Bearer {token}"
        self._session.verify = verify

    def cars(self) -> Iterator[Car]:
        """Every car."""
        return (of(Car, found) for found in self._all("cars"))

    def add_car(self, name: str, **facts: Any) -> Car:
        """Add a car; facts are fields of the API, such as `test_mass_kg`."""
        return of(Car, self._json("POST", "cars", json={"name": name, **facts}))

    def setups(self, car: Car | int) -> Iterator[Setup]:
        """The setups of a car."""
        return (of(Setup, found) for found in self._all("setups", car=_number(car)))

    def add_setup(self, car: Car | int, name: str, since: str, **facts: Any) -> Setup:
        """Add a setup, which holds since a day such as `2026-05-01`."""
        return of(
            Setup, self._json("POST", "setups", json={"car": _number(car), "name": name, "since": since, **facts})
        )

    def upload(self, path: Path | str, setup: Setup | int, **conditions: Any) -> Upload:
        """Send a log; it is timed afterwards, which `wait` waits for. Bytes that are known already make nothing new.

        Conditions are fields of a run, such as `charge_before_percent`. Raises CoombeError where it is refused at once.
        """
        path = Path(path)
        with path.open("rb") as file:
            answer = self._json(
                "POST", "logs", data={"setup": _number(setup), **conditions}, files={"file": (path.name, file)}
            )
        return replace(_upload(answer), path=path)

    def upload_folder(self, folder: Path | str, setup: Setup | int, **conditions: Any) -> list[Upload]:
        """Send every log of a folder, by name; one that is refused stands in the list as `refused`, with why."""
        files = sorted(each for each in Path(folder).iterdir() if each.suffix.lower() in LOGS)
        return [self._upload_or_say(each, setup, conditions) for each in files]

    def wait(self, uploads: Sequence[Upload], limit_s: float = 600.0, every_s: float = 0.5) -> list[Upload]:
        """The uploads when each has ended. Raises NotDoneError where some have not by the limit."""
        until = time.monotonic() + limit_s
        while True:
            uploads = [each if each.ended else self._again(each) for each in uploads]
            if all(each.ended for each in uploads):
                return list(uploads)
            if time.monotonic() > until:
                left = ", ".join(each.name for each in uploads if not each.ended)
                raise NotDoneError(f"not timed within {limit_s:g} s: {left}")
            time.sleep(every_s)

    def runs(self, **chosen: Any) -> Iterator[Run]:
        """Runs, a page at a time as they are read: `car`, `setup`, `log`, `kind`, `validity`, `from_day`, `sort` …"""
        for found in self._all("runs", **chosen):
            yield of(Run, found, headlines=tuple(of(Measured, each) for each in found["headlines"]))

    def compare(self, measure: str, clock: str, groups: Mapping[str, Sequence[int]], **asked: Any) -> list[Verdict]:
        """Compare groups of runs without saving anything: each against the first.

        `groups` are numbers of runs by the name of their group; `asked` are fields such as `adjust` or
        `difference_that_matters`.
        """
        answer = self._json("POST", "comparisons/preview", json=_asked(measure, clock, groups, asked))
        return _verdicts(answer["pairs"])

    def save_comparison(
        self, title: str, measure: str, clock: str, groups: Mapping[str, Sequence[int]], **asked: Any
    ) -> Comparison:
        """Compare, and keep it under a title."""
        body = {"title": title, **_asked(measure, clock, groups, asked)}
        return _comparison(self._json("POST", "comparisons", json=body))

    def comparison(self, number: int) -> Comparison:
        """A saved comparison as it comes out now."""
        return _comparison(self._json("GET", f"comparisons/{number}"))

    def download_package(self, comparison: Comparison | int, to: Path | str, license_: str = "") -> Path:
        """Save a comparison's data package, which `./coombe verify` works out again."""
        chosen = {"license": license_} if license_ else {}
        return self._download(f"comparisons/{_number(comparison)}/package", to, chosen)

    def download_log(self, log: int, to: Path | str) -> Path:
        """Save the bytes of a log as they were sent."""
        return self._download(f"logs/{log}/original", to, {})

    def download_spreadsheet(self, to: Path | str, **chosen: Any) -> Path:
        """Save runs as XLSX, chosen as `runs` takes it."""
        return self._download("runs/spreadsheet", to, chosen)

    def _upload_or_say(self, path: Path, setup: Setup | int, conditions: Mapping[str, Any]) -> Upload:
        try:
            return self.upload(path, setup, **conditions)
        except CoombeError as error:
            if error.status in (0, 401, 403):  # it would be the same for every other
                raise
            return Upload(0, path.name, "refused", 0, 0, False, None, str(error), path)

    def _again(self, upload: Upload) -> Upload:
        return replace(_upload(self._json("GET", f"imports/{upload.id}")), path=upload.path)

    def _all(self, what: str, **chosen: Any) -> Iterator[dict[str, Any]]:
        page: int | None = 1
        while page:
            answer = self._json("GET", what, params={**chosen, "page": page, "page_size": PAGE})
            yield from answer["results"]
            page = page + 1 if answer["next"] else None

    def _json(self, method: str, path: str, **sent: Any) -> Any:
        return self._ask(method, path, **sent).json()

    def _download(self, path: str, to: Path | str, chosen: Mapping[str, Any]) -> Path:
        """A file that is whole or is not there."""
        to = Path(to)
        partial = to.with_name(f"{to.name}.partial")
        answer = self._ask("GET", path, params=chosen, stream=True)
        try:
            with partial.open("wb") as out:
                _save(answer, out)
            partial.replace(to)
        except requests.RequestException as error:
            raise CoombeError(f"The connection broke: {error}") from None
        finally:
            partial.unlink(missing_ok=True)
        return to

    def _ask(self, method: str, path: str, **sent: Any) -> requests.Response:
        address = f"{self._address}/api/v1/{path}/"
        try:
            answer = self._session.request(method, address, timeout=self._timeout_s, **sent)
        except requests.RequestException as error:
            raise CoombeError(f"{self._address} does not answer: {error}") from None
        if answer.ok:
            return answer
        try:
            problem = answer.json()
            raise CoombeError(problem["detail"], answer.status_code, problem["code"], problem.get("errors"))
        except (ValueError, KeyError, TypeError):
            raise CoombeError(f"{address} answers {answer.status_code}", answer.status_code) from None


def _save(answer: requests.Response, out: IO[bytes]) -> None:
    for piece in answer.iter_content(PIECE_BYTES):
        out.write(piece)


def _number(row: Any) -> int:
    return int(getattr(row, "id", row))


def _asked(measure: str, clock: str, groups: Mapping[str, Sequence[int]], asked: Mapping[str, Any]) -> dict[str, Any]:
    named = [{"name": name, "runs": list(runs)} for name, runs in groups.items()]
    return {"measure": measure, "clock": clock, "groups": named, **asked}


def _upload(found: Mapping[str, Any]) -> Upload:
    log, refusal = found["log"], found["refusal"]
    return of(Upload, found, log=log and log["id"], refusal=refusal and refusal["detail"])


def _comparison(found: Mapping[str, Any]) -> Comparison:
    return of(Comparison, found, verdicts=tuple(_verdicts(found["result"]["pairs"])))


def _verdicts(pairs: Sequence[Mapping[str, Any]]) -> list[Verdict]:
    return [
        of(Verdict, pair, difference=of(Difference, pair["difference"]) if pair["difference"] else None)
        for pair in pairs
    ]
