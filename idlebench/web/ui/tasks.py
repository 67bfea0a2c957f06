"""Long work in a thread of its own: it tells how far it is, and can be stopped; what it writes, it writes at its end."""

from __future__ import annotations

import secrets
import threading
import time
from collections.abc import Callable
from contextvars import copy_context
from dataclasses import dataclass, field

from django.db import connections

from idlebench.core.refusal import BadInput, Block, Blocked

#: Tasks at once, and how long one that ended is told of, s.
AT_ONCE, TOLD_FOR = 2, 3600.0
RUNNING, DONE, STOPPED, FAILED = "running", "done", "stopped", "failed"


class Stopped(Exception):
    """Somebody stopped the task; nothing of it was written."""


@dataclass(frozen=True)
class Made:
    """A file that a task made."""

    name: str
    kind: str
    data: bytes


@dataclass(kw_only=True)
class Task:
    """Long work. done, total: how far it is. said: what came of it, or why it did not. back: the page it belongs to. made: a
    file it made, kept as long as the task is told of."""

    title: str
    back: str
    key: str = field(default_factory=lambda: secrets.token_urlsafe(12))
    state: str = RUNNING
    doing: str = ""
    done: int = 0
    total: int = 0
    said: str = ""
    ended: float = 0.0
    made: Made | None = None
    _stop: threading.Event = field(default_factory=threading.Event)

    def step(self, doing: str, done: int, total: int) -> None:
        """Tell how far the work is.

        Raises:
            Stopped: somebody stopped it.
        """
        self.doing, self.done, self.total = doing, done, total
        if self._stop.is_set():
            raise Stopped

    def stop(self) -> None:
        """Have it stop at its next step."""
        self._stop.set()

    @property
    def share(self) -> int:
        """How far it is, %."""
        return 100 * self.done // self.total if self.total else 0


_tasks: dict[str, Task] = {}
_lock = threading.Lock()


def begin(title: str, back: str, work: Callable[[Task], str]) -> Task:
    """Begin long work; it is asked for by the task's key.

    Raises:
        Blocked: enough is going on already.
    """
    with _lock:
        now = time.monotonic()
        for key in [k for k, t in _tasks.items() if t.state != RUNNING and now - t.ended > TOLD_FOR]:
            del _tasks[key]
        if sum(t.state == RUNNING for t in _tasks.values()) >= AT_ONCE:
            busy = Block("busy", "Another long task is running.", "Try again when it is done.")
            raise Blocked("Not begun", (busy,))
        task = Task(title=title, back=back)
        _tasks[task.key] = task
    context = copy_context()
    threading.Thread(target=lambda: context.run(_run, task, work), daemon=True, name=f"task {title}").start()
    return task


def _run(task: Task, work: Callable[[Task], str]) -> None:
    try:
        said = work(task)
        task.said, task.state = said, DONE
    except Stopped:
        task.said, task.state = "Stopped. Nothing was written.", STOPPED
    except BadInput as error:
        task.said, task.state = error.plain, FAILED
    except Blocked as error:
        task.said, task.state = " ".join(map(str, error.reasons)), FAILED
    except Exception:
        task.said, task.state = "It failed, and nothing was written. Try it again.", FAILED
        raise
    finally:
        task.ended = time.monotonic()
        connections.close_all()


def running() -> bool:
    """Whether long work is going on."""
    return any(task.state == RUNNING for task in list(_tasks.values()))


def task_of(key: str) -> Task | None:
    """A task by its key."""
    return _tasks.get(key)
