"""Long work in threads of its own: how far it is, and a way to stop it. What was stopped has changed nothing."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as TooLong
from contextlib import suppress
from dataclasses import dataclass, field
from threading import Lock
from typing import Any

Tell = Callable[[float], None]
"""Told how far the work is, 0 to 1. Raises: Stopped when somebody asked for that."""
SOON_S = 0.4


class Stopped(RuntimeError):
    """Somebody stopped the work."""


@dataclass
class Job:
    """One piece of work: its share done (0 to 1), whether it was asked to stop, its result."""

    result: Future[Any] = field(default_factory=Future)
    share: float = 0.0
    stopped: bool = False

    def tell(self, share: float) -> None:
        """Note how far it is. Raises: Stopped."""
        self.share = share
        if self.stopped:
            raise Stopped


class Jobs:
    """The work under way, by name: the same name is worked on once."""

    def __init__(self) -> None:
        self._lock, self._worker, self._under_way = Lock(), ThreadPoolExecutor(2, "long work"), dict[str, Job]()

    def start(self, name: str, work: Callable[[Tell], Any]) -> Job:
        """Begin a piece of work, or find the one of that name; waits a moment for it, for most is done at once."""
        with self._lock:
            job = self._under_way.get(name)
            if job is None:
                job = self._under_way[name] = Job()
                self._worker.submit(self._run, name, job, work)
        with suppress(TooLong):
            job.result.exception(SOON_S)
        return job

    def under_way(self, name: str) -> Job | None:
        """The work of that name, if any is being done."""
        return self._under_way.get(name)

    def stop(self, name: str) -> None:
        """Ask a piece of work to stop."""
        if (job := self._under_way.get(name)) is not None:
            job.stopped = True

    def _run(self, name: str, job: Job, work: Callable[[Tell], Any]) -> None:
        try:
            result = work(job.tell)
        except BaseException as problem:  # noqa: BLE001 - whatever it is belongs to whoever asks
            self._under_way.pop(name, None)
            job.result.set_exception(problem)
        else:
            self._under_way.pop(name, None)
            job.result.set_result(result)


JOBS = Jobs()
