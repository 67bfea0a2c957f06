"""Opens the tables that Gather writes in a spreadsheet program, and holds what it reads against what was written."""

from __future__ import annotations

import csv
import io
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from with_demo import demo_home

#: To a spreadsheet's own format and back: what stands in between is what the program understood.
TABLE, THERE, BACK = "CSV:44,34,76,1", "ods", "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,false"


def converted(file: Path, to: str, folder: Path) -> Path:
    """A file as the program writes it in another format."""
    profile = f"-env:UserInstallation=file://{folder}/profile"
    # commas and UTF-8, as its dialogue offers by itself to a person who opens such a file; without a screen it asks nobody
    asked = [f"--infilter={TABLE}"] if file.suffix == ".csv" else []
    command = ["soffice", profile, "--headless", *asked, "--convert-to", to, "--outdir", str(folder), str(file)]
    subprocess.run(command, check=True, capture_output=True, timeout=180)
    return folder / f"{file.stem}.{to.split(':')[0]}"


def same(written: str, read: str) -> bool:
    """Whether a cell came back as it was: as the same number, or the same text."""
    try:
        return abs(float(written) - float(read)) < 1e-9
    except ValueError:
        return written == read


def main() -> int:
    """Both tables of the demo; 0 where every cell came back."""
    with demo_home(), TemporaryDirectory() as scratch:
        from django.test import Client

        from idlebench.web.gather import planning
        from idlebench.web.records.models import Unit

        planning.make()
        client, folder = Client(SERVER_NAME="127.0.0.1"), Path(scratch)
        tables = {"plan": "/gather/plan.csv", "unit": f"/unit/{Unit.objects.get(name='B').pk}/gather.csv"}
        wrong = 0
        for name, url in tables.items():
            text = client.get(url).content.decode()
            source = folder / f"{name}.csv"
            source.write_bytes(client.get(url).content)
            sheet = converted(source, THERE, folder)
            (folder / "back").mkdir(exist_ok=True)
            back = converted(sheet, BACK, folder / "back").read_text(encoding="utf-8")
            was, now = (list(csv.reader(io.StringIO(one))) for one in (text, back))
            bad = [
                f"{name}, line {n}: {a} came back as {b}"
                for n, (row, again) in enumerate(zip(was, now, strict=True), 1)
                for a, b in zip(row, again, strict=True)
                if not same(a, b)
            ]
            numbers = sum(cell.replace(".", "", 1).isdigit() for row in was for cell in row)
            print(f"{name}: {len(was) - 1} rows, {numbers} numbers", *(bad or ["all as they were written"]), sep="\n  ")
            wrong += len(bad)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
