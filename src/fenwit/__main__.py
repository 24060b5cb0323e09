"""The command line: answer a file, serve the application, print the API schema."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fenwit import __version__
from fenwit.core.errors import InputError

MAX_CASE_BYTES = 2_000_000


def main(argv: list[str] | None = None) -> int:
    """Run one command; the exit code is 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(prog="fenwit", description="Fan speed regulation, computed.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(dest="command", required=True)
    solve = commands.add_parser("solve", help="solve a case file and print the result as JSON")
    solve.add_argument("case", metavar="CASE.json", help="path of the case file, or - for standard input")
    calibrate = commands.add_parser(
        "calibrate", help="calibrate a motor from a file of readings and print parameters and bands as JSON"
    )
    calibrate.add_argument("case", metavar="CASE.json", help="path of the file, or - for standard input")
    leads = commands.add_parser("leads", help="find out which lead is which from a CSV file of ohms")
    leads.add_argument(
        "case", metavar="READINGS.csv", help="columns lead_a, lead_b, ohms; or - for standard input"
    )
    wire = commands.add_parser(
        "wire", help="read a circuit and print its truth table, hazards, dead tests and connections as JSON"
    )
    wire.add_argument("case", metavar="CIRCUIT.json", help="path of the file, or - for standard input")
    desk = commands.add_parser(
        "desk",
        help="one calculation: desk CARD key=value …; alone it lists the cards, - reads one call a line",
    )
    desk.add_argument("card", nargs="?", default="", metavar="CARD")
    desk.add_argument("given", nargs="*", metavar="key=value")
    desk.add_argument("--json", action="store_true", help="answer as JSON")
    commands.add_parser("openapi", help="print the OpenAPI schema of the web application")
    serve = commands.add_parser(
        "serve", help="start the application; its own database unless FENWIT_DATABASE_URL is set"
    )
    serve.add_argument("--demo", action="store_true", help="load the demo jobs into an empty database")
    serve.add_argument(
        "--fresh",
        action="store_true",
        help="throw the private database away first; it asks, and keeps a backup",
    )
    serve.add_argument("--yes", action="store_true", help="do not ask before --fresh")
    serve.add_argument(
        "--port", type=int, default=None, help="port on loopback (default: FENWIT_PORT, or a free one)"
    )
    serve.add_argument("--reload", action="store_true", help="restart when a source file changes")
    keep = commands.add_parser("backup", help="write everything to one file, and read it back")
    keep.add_argument("file", metavar="FILE", type=Path)
    back = commands.add_parser(
        "restore", help="put everything back as it stands in a backup; stop Fenwit first"
    )
    back.add_argument("file", metavar="FILE", type=Path)
    commands.add_parser("settings", help="list the settings with their defaults")
    given = parser.parse_args(argv)
    if given.command == "desk":
        from fenwit.report.deskfile import run

        return run(given.card, given.given, given.json)
    if given.command in _FILES:
        return _answer(given.case, *_FILES[given.command])
    if given.command == "openapi":
        from fenwit.web.app import create_app

        print(json.dumps(create_app(None).openapi(), indent=1))
        return 0
    if given.command == "settings":
        from fenwit.web.settings import describe

        print(describe())
        return 0
    from fenwit.web import serve as served

    if given.command == "backup":
        return served.backup_to(given.file)
    if given.command == "restore":
        return served.restore_from(given.file)
    return served.serve(
        demo=given.demo, fresh=given.fresh, port=given.port, reload=given.reload, sure=given.yes
    )


def _solve(text: str) -> dict[str, Any]:
    from fenwit.report.casefile import solve_case

    return solve_case(json.loads(text))


def _calibrate(text: str) -> dict[str, Any]:
    from fenwit.report.calibratefile import calibrate_case

    return calibrate_case(json.loads(text))


def _leads(text: str) -> dict[str, Any]:
    from fenwit.report.leadsfile import find_leads_csv

    return find_leads_csv(text)


def _wire(text: str) -> dict[str, Any]:
    from fenwit.core.circuit.wiring.answer import answered
    from fenwit.core.circuit.wiring.document import read_wiring

    return answered(read_wiring(json.loads(text)))


_FILES: dict[str, tuple[str, Callable[[str], dict[str, Any]]]] = {
    "solve": ("case", _solve),
    "calibrate": ("case", _calibrate),
    "leads": ("readings", _leads),
    "wire": ("circuit", _wire),
}
"""Commands that read one file and print one JSON document: what the file is called, and what answers it."""


def _answer(path: str, called: str, work: Callable[[str], dict[str, Any]]) -> int:
    try:
        if path == "-":
            text = sys.stdin.buffer.read(MAX_CASE_BYTES + 1)
        else:
            with Path(path).open("rb") as file:
                text = file.read(MAX_CASE_BYTES + 1)
        if len(text) > MAX_CASE_BYTES:
            raise InputError(
                called, f"over {MAX_CASE_BYTES} bytes", f"up to {MAX_CASE_BYTES} bytes", "too large"
            )
        result = work(text.decode("utf-8-sig"))
    except OSError as error:
        print(f"{called}: {path}: {error.strerror}", file=sys.stderr)
        return 2
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        kind = "text" if isinstance(error, UnicodeDecodeError) and called == "readings" else "JSON"
        print(f"{called}: {path}: not readable as {kind}: {error}", file=sys.stderr)
        return 2
    except InputError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    json.dump(result, sys.stdout, indent=1, allow_nan=False, ensure_ascii=False)
    print()
    return 0


if __name__ == "__main__":
    sys.exit(main())
