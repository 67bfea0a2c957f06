"""The idlebench command: its commands put together, and what it says of input that cannot be taken."""

from __future__ import annotations

import argparse
import json
import os
import sys
from typing import NoReturn

from . import __version__
from .commands import bench, choosing, keeping, photos, planning, reckoning, serving, suspects
from .core.refusal import BadInput, Blocked


def main(argv: list[str] | None = None) -> int:
    """Run the command; 0 when done, 2 with one clear line, or with --json an object, for what cannot be taken."""
    argv = sys.argv[1:] if argv is None else argv
    args = _parser(as_json := "--json" in argv).parse_args(argv)
    try:
        code = args.run(args)
        sys.stdout.flush()
        return code
    except BadInput as error:
        told = {"read": error.read, "expected": error.expected, "mend": error.mend, "field": error.field}
        _complain(str(error), as_json, told)
    except Blocked as error:
        reasons = [{"rule": one.rule, "text": one.text, "opens": one.opens} for one in error.reasons]
        _complain(f"{error.title}: {' '.join(map(str, error.reasons))}", as_json, {"reasons": reasons})
    except FileNotFoundError as error:
        _complain(f"there is no file {error.filename}", as_json)
    except BrokenPipeError:
        # who reads what is printed has gone, such as head: what is left has nobody to go to
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except OSError as error:
        _complain(f"cannot use {error.filename or 'a file'}: {error.strerror or error}", as_json)
    except KeyboardInterrupt:
        _complain("stopped", as_json)
        return 130
    return 2


def _complain(line: str, as_json: bool, told: dict[str, object] | None = None) -> None:
    """Say in one line what could not be done, or in one object for programs; standard output stays empty."""
    said = json.dumps({"error": line, **(told or {})}, ensure_ascii=False) if as_json else f"idlebench: {line}"
    print(said, file=sys.stderr)


class _Parser(argparse.ArgumentParser):
    """A parser that complains as the commands do."""

    as_json = False

    def error(self, message: str) -> NoReturn:
        """Refuse what was typed."""
        _complain(f"{message}. {self.prog} --help shows an example.", self.as_json)
        sys.exit(2)


#: What a command ends with.
EXIT_CODES = (
    "Exit codes: 0 done; 1 the address to serve on cannot be used; 2 what was given cannot be taken, and one line, "
    "with --json an object, says why; 130 stopped by Ctrl+C."
)
#: An example of each command: its --help shows it.
EXAMPLES = {
    "reckon": "idlebench reckon discharge value=220u volts=325",
    "choose": "idlebench choose --survey board.csv --policy mend --json",
    "buy": "idlebench buy --demand places.csv --offers offers.csv --suppliers terms.csv",
    "schedule": "idlebench schedule --tasks tasks.csv --hours-a-day 2",
    "serve": "idlebench serve --open",
    "stand-in": "idlebench stand-in --port 5025",
    "bench": 'idlebench bench --supply supply.txt --survey board.csv --state "mains 230V 50Hz" --read "+5V dc"',
    "suspects": "idlebench suspects --supply supply.txt --survey board.csv --seen seen.txt",
    "find-parts": "idlebench find-parts --photo board.jpg --mm 180x120",
    "demo": "idlebench demo",
    "import": "idlebench import job.zip",
    "export": "idlebench export 3 -o job.zip",
    "backup": "idlebench backup bench.zip",
    "restore": "idlebench restore bench.zip --replace",
}


def _parser(as_json: bool = False) -> argparse.ArgumentParser:
    parser = _Parser(
        prog="idlebench",
        description="Measuring, arithmetic and judgement for restoring vintage electronics.",
        epilog=EXIT_CODES,
    )
    parser.as_json = as_json
    parser.add_argument("--version", action="version", version=f"Idle Bench {__version__}")
    commands = parser.add_subparsers(required=True, metavar="command")
    for module in (reckoning, choosing, planning, serving, bench, suspects, photos, keeping):
        module.add(commands)
    for name, command in commands.choices.items():
        command.epilog, command.as_json = f"Example: {EXAMPLES[name]} – {EXIT_CODES}", as_json
    return parser


if __name__ == "__main__":
    sys.exit(main())
