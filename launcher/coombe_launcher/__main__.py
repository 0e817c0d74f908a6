"""The one command's other half: setup, demo, serve, record, soak, pace, admin, test, doctor."""

from __future__ import annotations

import argparse
import sys

from coombe_launcher.console import LauncherError, fail
from coombe_launcher.doctor import examine
from coombe_launcher.installing import set_up
from coombe_launcher.serving import Address, make_administrator, pace, record, serve, soak
from coombe_launcher.testing import test

PORT = 8642


def main(arguments: list[str] | None = None) -> int:
    """Carry out one command and return the exit code."""
    options = _parser().parse_args(arguments)
    try:
        return _carry_out(options)
    except LauncherError as error:
        return fail(error)
    except KeyboardInterrupt:
        return 130


def _carry_out(options: argparse.Namespace) -> int:
    match options.command:
        case "setup":
            set_up()
            return 0
        case "demo" | "serve":
            return serve(Address(options.port, options.lan), options.workers, demo=options.command == "demo")
        case "record":
            return record(options.recorder)
        case "soak":
            return soak(options.minutes, options.rate)
        case "pace":
            return pace(options.runs)
        case "admin":
            return make_administrator()
        case "doctor":
            return examine(options.port)
        case _:
            return test(options.labels)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="coombe", epilog="Without a server: coombe analyse LOG..., compare, simulate (each with --help)."
    )
    commands = parser.add_subparsers(dest="command", required=True)
    commands.add_parser("setup", help="install what is missing")
    for name, about in (("demo", "serve with an invented season of tests"), ("serve", "serve for real use")):
        command = commands.add_parser(name, help=about)
        command.add_argument("--port", type=int, default=PORT)
        command.add_argument("--workers", type=int, default=1)
        command.set_defaults(lan=False)
    # The demo's passwords are known to everybody: it stays on loopback.
    command.add_argument("--lan", action="store_true", help="serve other devices on the network too, over HTTPS")
    recording = commands.add_parser("record", help="record without serving: demo and serve do so themselves")
    recording.add_argument("recorder", nargs="?", help="the number of one recorder; all that are wanted otherwise")
    soaking = commands.add_parser("soak", help="record for long against stand-ins: memory, missed fixes, delays")
    soaking.add_argument("--minutes", type=float, default=120.0)
    soaking.add_argument("--rate", type=float, default=25.0)
    pacing = commands.add_parser("pace", help="how fast comparisons and lists answer with many runs")
    pacing.add_argument("--runs", type=int, default=10_000)
    commands.add_parser("admin", help="create an administrator")
    doctor = commands.add_parser("doctor", help="what is installed, and what to do")
    doctor.add_argument("--port", type=int, default=PORT)
    tests = commands.add_parser("test", help="lint, types and every test")
    tests.add_argument("labels", nargs="*", help="only these tests, such as runs or browser.tests")
    return parser


if __name__ == "__main__":
    sys.exit(main())
