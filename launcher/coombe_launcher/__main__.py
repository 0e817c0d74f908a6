"""The one command's other half: everything that is not a computation without a server."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Mapping
from pathlib import Path

from coombe_launcher.console import LauncherError, fail
from coombe_launcher.deploying import Installation, install
from coombe_launcher.doctor import examine
from coombe_launcher.installing import set_up
from coombe_launcher.serving import (
    Address,
    at_home,
    backup,
    check_backup,
    record,
    restore_backup,
    restore_copy,
    serve,
    upgrade_home,
)
from coombe_launcher.testing import test
from coombe_launcher.trials import cluster, kills, load, pace, soak

PORT = 8642


def main(arguments: list[str] | None = None) -> int:
    """Carry out one command and return the exit code."""
    options = _parser().parse_args(arguments)
    os.umask(0o077)  # data and logs are nobody else's to read
    try:
        return _carry_out(options)
    except LauncherError as error:
        return fail(error)
    except KeyboardInterrupt:
        return 130


def _carry_out(options: argparse.Namespace) -> int:
    return _COMMANDS[options.command](options)


def _serve(options: argparse.Namespace) -> int:
    address = Address(options.port, options.lan, options.metrics_port, not options.without_recorders)
    return serve(address, options.workers, demo=options.command == "demo")


def _set_up(options: argparse.Namespace) -> int:
    set_up(options.for_use)
    return 0


def _store(options: argparse.Namespace) -> int:
    chosen = [name for name in ("quick", "trash", "empty_trash") if getattr(options, name)]
    return at_home("check_store", *(f"--{name.replace('_', '-')}" for name in chosen))


def _adopt(options: argparse.Namespace) -> int:
    return at_home("adopt", *options.hashes, *(["--setup", str(options.setup)] if options.setup else []))


def _export_archive(options: argparse.Namespace) -> int:
    of_car = ["--car", options.car] if options.car else []
    return at_home("export_archive", _whole(options.path), *of_car, demo=options.demo)


def _import_archive(options: argparse.Namespace) -> int:
    chosen = [f"--{name.replace('_', '-')}" for name in ("look", "keep_here") if getattr(options, name)]
    return at_home("import_archive", _whole(options.path), *chosen)


def _restore(options: argparse.Namespace) -> int:
    if (options.copy / "backups").is_dir():
        chosen = options.backup, options.replace, options.passphrase_file
        return restore_backup(options.copy, *chosen, demo=options.demo)
    return restore_copy(options.copy)


def _upgrade(options: argparse.Namespace) -> int:
    if bool(options.target) == options.back:
        raise LauncherError("name the folder for the backup, or --back to bring back what was before the upgrade")
    return upgrade_home(options.target, options.passphrase_file)


def _whole(path: Path) -> str:
    return str(path.expanduser().resolve())


_COMMANDS: Mapping[str, Callable[[argparse.Namespace], int]] = {
    "setup": _set_up,
    "install": lambda options: install(
        Installation(options.name, options.backups, options.certificate, options.key, options.port, options.root)
    ),
    "demo": _serve,
    "serve": _serve,
    "record": lambda options: record(options.recorder),
    "soak": lambda options: soak(options.minutes, options.rate),
    "pace": lambda options: pace(
        options.runs, *(f"--{name}" for name in ("pages", "changes") if getattr(options, name))
    ),
    "kills": lambda options: kills(options.each, options.seed),
    "load": lambda options: load(options.seconds, options.uploads),
    "cluster-trial": lambda options: cluster(
        f"--minutes={options.minutes}",
        f"--readers={options.readers}",
        *(["--throughput"] if options.throughput else []),
        *(["--untimed"] if options.untimed else []),
    ),
    "admin": lambda options: at_home("create_administrator"),
    "store": _store,
    "adopt": _adopt,
    "export-archive": _export_archive,
    "import-archive": _import_archive,
    "retime": lambda options: at_home("retime", *(["--all"] if options.all else [])),
    "backup": lambda options: backup(options.target, options.passphrase_file, demo=options.demo),
    "check-backup": lambda options: check_backup(options.target, options.backup, options.passphrase_file),
    "restore": _restore,
    "upgrade": _upgrade,
    "close-demo": lambda options: at_home("close_demo"),
    "doctor": lambda options: examine(options.port),
    "test": lambda options: test(options.labels, options.patterns),
}


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="coombe", epilog="Without a server: coombe analyse LOG..., compare, study, simulate (each with --help)."
    )
    commands = parser.add_subparsers(dest="command", required=True)
    setting_up = commands.add_parser("setup", help="install what is missing")
    setting_up.add_argument(
        "--for-use", action="store_true", default=None, help="without what only tests and changes need"
    )
    _install(commands)
    for name, about in (("demo", "serve with an invented season of tests"), ("serve", "serve for real use")):
        command = commands.add_parser(name, help=about)
        command.add_argument("--port", type=int, default=PORT)
        command.add_argument("--workers", type=int, default=1)
        metrics_port = os.environ.get("COOMBE_METRICS_PORT") or None
        command.add_argument(
            "--metrics-port", type=int, default=metrics_port, help="of loopback, for a monitoring system"
        )
        command.set_defaults(lan=False)
        command.add_argument("--without-recorders", action="store_true", help="where another machine records")
    # The demo's passwords are known to everybody: it stays on loopback.
    command.add_argument("--lan", action="store_true", help="serve other devices on the network too, over HTTPS")
    recording = commands.add_parser("record", help="record without serving: demo and serve do so themselves")
    recording.add_argument("recorder", nargs="?", help="the number of one recorder; all that are wanted otherwise")
    _trials(commands)
    _data(commands)
    doctor = commands.add_parser("doctor", help="what is installed, and what to do")
    doctor.add_argument("--port", type=int, default=PORT)
    tests = commands.add_parser("test", help="lint, types and every test")
    tests.add_argument("labels", nargs="*", help="only these: runs.tests.test_importing, core/tests, browser/tests")
    tests.add_argument("-k", action="append", default=[], dest="patterns", help="only tests with this in their name")
    return parser


def _install(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    command = commands.add_parser("install", help="make this machine a server, under systemd and behind nginx (root)")
    command.add_argument("name", help="what the machine is called in the network, such as tests.example.org")
    command.add_argument("--certificate", type=Path, help="the certificate's file; the machine makes its own without")
    command.add_argument("--key", type=Path)
    command.add_argument("--port", type=int, default=PORT, help="on loopback, behind nginx")
    command.add_argument("--backups", type=Path, default=Path("/var/backups/coombe"), help="best on another disk")
    command.add_argument("--root", type=Path, default=Path("/"), help="write below a folder and start nothing")


def _trials(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Long trials, each in a home that is thrown away."""
    soaking = commands.add_parser(
        "soak", help="record for long against simulated devices: memory, missed fixes, delays"
    )
    soaking.add_argument("--minutes", type=float, default=120.0)
    soaking.add_argument("--rate", type=float, default=25.0)
    pacing = commands.add_parser("pace", help="how fast comparisons and lists answer with many runs")
    pacing.add_argument("--runs", type=int, default=10_000)
    pacing.add_argument("--pages", action="store_true", help="pages in a browser, and twenty people at once")
    pacing.add_argument("--changes", action="store_true", help="how long changes of tables hold others up")
    killing = commands.add_parser("kills", help="kill processes while recording, and compare what is stored")
    killing.add_argument("--each", type=int, default=20, help="kills of each kind of process")
    killing.add_argument("--seed", type=int, default=1)
    loading = commands.add_parser("load", help="many readers and uploads at once: failures and memory")
    loading.add_argument("--seconds", type=float, default=60.0)
    loading.add_argument("--uploads", type=int, default=1500)
    several = commands.add_parser("cluster-trial", help="several machines on one: each part fails while people work")
    several.add_argument("--minutes", type=float, default=20.0)
    several.add_argument("--throughput", action="store_true", help="measure one and two web nodes first")
    several.add_argument("--readers", type=int, default=50, help="people who read meanwhile")
    several.add_argument("--untimed", action="store_true", help="judge what is kept, not how soon it is answered")


def _backups(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Copies of everything, and the way back."""
    backing = commands.add_parser("backup", help="back everything up while it is used, and keep backups by rule")
    backing.add_argument("target", type=Path, help="a folder, best on another machine or disk")
    backing.add_argument("--demo", action="store_true", help="the demo's home")
    checking = commands.add_parser("check-backup", help="read a whole backup and compare it with its hashes")
    checking.add_argument("target", type=Path)
    restoring = commands.add_parser("restore", help="put a backup, or a copy of the database, in the place of what is")
    restoring.add_argument("copy", type=Path, nargs="?", default=Path("-"), help="its path; none lists copies")
    restoring.add_argument("--replace", action="store_true", help="put aside what a home holds, and keep it")
    restoring.add_argument("--demo", action="store_true", help="into the demo's home")
    upgrading = commands.add_parser("upgrade", help="back up, bring the tables and runs up to this Coombe; or go back")
    upgrading.add_argument("target", type=Path, nargs="?", help="a folder for the backup that is the way back")
    upgrading.add_argument("--back", action="store_true", help="from the older Coombe: bring back what was before")
    for command in (checking, restoring):
        command.add_argument("--backup", metavar="NAME", help="which backup; the latest where none is named")
    for command in (backing, checking, restoring, upgrading):
        command.add_argument("--passphrase-file", type=Path, metavar="FILE", help="lock or open the files with it")


def _data(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Work on a home's data."""
    commands.add_parser("admin", help="create an administrator")
    store = commands.add_parser("store", help="compare the stored files with the database")
    store.add_argument("--quick", action="store_true", help="do not read every file")
    store.add_argument("--trash", action="store_true", help="move what no row names to the trash, for 30 days")
    store.add_argument("--empty-trash", action="store_true", help="delete what has lain there for 30 days")
    adopting = commands.add_parser("adopt", help="take stored files that no row names back as logs")
    adopting.add_argument("hashes", nargs="*", help="all that ./coombe store lists, where none is given")
    adopting.add_argument("--setup", type=int, help="the number of the setup that they were driven on")
    exporting = commands.add_parser("export-archive", help="write everything, or what belongs to a car, into a file")
    exporting.add_argument("path", type=Path)
    exporting.add_argument("--car", help="the name of the one car whose tests to take")
    exporting.add_argument("--demo", action="store_true", help="from the demo's home")
    importing = commands.add_parser("import-archive", help="take such a file of another installation in")
    importing.add_argument("path", type=Path)
    importing.add_argument("--look", action="store_true", help="only say what it comes to")
    importing.add_argument("--keep-here", action="store_true", help="where it differs, leave what is here as it is")
    retiming = commands.add_parser("retime", help="time runs again where what they rest on has changed")
    retiming.add_argument("--all", action="store_true", help="every run")
    _backups(commands)
    commands.add_parser("close-demo", help="close the demo's accounts in a database that is to be served")


if __name__ == "__main__":
    sys.exit(main())
