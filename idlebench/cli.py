"""The idlebench command: its commands put together, and what it says of input that cannot be taken."""

from __future__ import annotations

import argparse
import sys

from . import __version__
from .commands import bench, choosing, keeping, planning, reckoning, serving, suspects
from .core.refusal import BadInput, Blocked


def main(argv: list[str] | None = None) -> int:
    """Run the command; 0 when done, 2 with one clear line for input that cannot be taken."""
    args = _parser().parse_args(argv)
    try:
        return args.run(args)
    except BadInput as error:
        print(f"idlebench: {error}", file=sys.stderr)
    except Blocked as error:
        print(f"idlebench: {error.title}: {' '.join(map(str, error.reasons))}", file=sys.stderr)
    except FileNotFoundError as error:
        print(f"idlebench: there is no file {error.filename}", file=sys.stderr)
    except (IsADirectoryError, PermissionError) as error:
        print(f"idlebench: cannot read {error.filename}: {error.strerror}", file=sys.stderr)
    return 2


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
    "demo": "idlebench demo",
    "import": "idlebench import job.zip",
    "export": "idlebench export 3 -o job.zip",
    "backup": "idlebench backup bench.zip",
    "restore": "idlebench restore bench.zip --replace",
}


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="idlebench", description="Measuring, arithmetic and judgement for restoring vintage electronics."
    )
    parser.add_argument("--version", action="version", version=f"Idle Bench {__version__}")
    commands = parser.add_subparsers(required=True, metavar="command")
    for module in (reckoning, choosing, planning, serving, bench, suspects, keeping):
        module.add(commands)
    for name, command in commands.choices.items():
        command.epilog = f"Example: {EXAMPLES[name]}"
    return parser


if __name__ == "__main__":
    sys.exit(main())
