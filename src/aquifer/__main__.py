"""The command line: cases in and out, and the application's own management commands."""

import argparse
import os
import sys
from collections.abc import Iterator
from typing import IO

LONGEST_LINE = 16 * 1024 * 1024


def main(arguments: list[str]) -> int:
    """Run a command; the exit status is 0, 1 if some lines failed, 2 for a bad case or call."""
    if arguments and arguments[0] == "forecast":
        return forecast(arguments[1:])
    if arguments and arguments[0] == "study":
        from aquifer.study.__main__ import main as study

        return study(arguments[1:])
    if arguments and arguments[0] == "export-case":
        arguments = ["export_case", *arguments[1:]]
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "aquifer.settings")
    from django.core.management import execute_from_command_line

    from aquifer.memory import keep_freed_memory

    keep_freed_memory()
    if arguments[:2] == ["procrastinate", "worker"]:
        from aquifer import environment

        if to := environment.read().traces_to:
            from aquifer import traces

            traces.begin("aquifer worker", to)
    execute_from_command_line(["aquifer", *arguments])
    return 0


def forecast(arguments: list[str]) -> int:
    """``forecast CASE``: read a case or, with ``--lines``, many; print their forecasts."""
    from aquifer.core import case

    parser = argparse.ArgumentParser(prog="aquifer forecast", description="Forecast a heater from a case file.")
    parser.add_argument("path", help="a case file, or - for standard input")
    parser.add_argument("--lines", action="store_true", help="one case a line (JSON Lines)")
    options = parser.parse_args(arguments)
    try:
        source: IO[bytes] = sys.stdin.buffer if options.path == "-" else open(options.path, "rb")  # noqa: SIM115
    except OSError as error:
        print(f"{options.path}: {error.strerror}", file=sys.stderr)  # noqa: T201
        return 2
    with source:
        if not options.lines:
            try:
                print(case.as_json(case.answer(case.read(source.read(LONGEST_LINE + 1)))))  # noqa: T201
            except case.CaseError as error:
                print(str(error).replace("\n", " "), file=sys.stderr)  # noqa: T201
                return 2
            return 0
        status = 0
        for number, line in enumerate(_lines(source), start=1):
            if not line.strip():
                continue
            try:
                document = case.answer(case.read(line))
            except case.CaseError as error:
                status = 1
                document = {"format": case.ERROR_FORMAT, "line": number, "at": error.at, "error": error.message}
            print(case.as_json(document))  # noqa: T201
        return status


def _lines(source: IO[bytes]) -> Iterator[bytes]:
    """Lines of bounded length: what is longer than a case may be is read past, not held."""
    while line := source.readline(LONGEST_LINE + 2):
        if len(line) > LONGEST_LINE and not line.endswith(b"\n"):
            while (more := source.readline(LONGEST_LINE)) and not more.endswith(b"\n"):
                pass
        yield line


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
