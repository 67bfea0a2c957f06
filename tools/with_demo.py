"""A bench of its own with the demo on it, for measuring and for pictures; gone afterwards."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def demo_home() -> Iterator[Path]:
    """A temporary IDLEBENCH_HOME with the demo loaded and Django set up on it."""
    with tempfile.TemporaryDirectory(prefix="idlebench-") as home:
        os.environ["IDLEBENCH_HOME"] = home
        os.environ["DJANGO_SETTINGS_MODULE"] = "idlebench.web.settings"
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"  # a browser is driven in the same process
        import django

        django.setup()
        from django.core.management import call_command

        from idlebench.web.jobs.demo import load_demo

        call_command("migrate", verbosity=0)
        load_demo()
        yield Path(home)
