"""Render threads for the window: the newest request wins; frames ahead of the playhead are prepared meanwhile.

A frame that is prepared is given up as soon as another one is waited for.
"""

from __future__ import annotations

import threading
from collections import OrderedDict, deque
from collections.abc import Callable, Hashable, Sequence
from contextlib import nullcontext
from dataclasses import dataclass
from functools import partial

import numpy as np

from nimble_quake.conventions import Bytes8
from nimble_quake.raster.threads.rows import on_one_thread
from nimble_quake.render.abandon import Abandoned, abandoned_when
from nimble_quake.render.engine import Engine
from nimble_quake.render.shown.bench import answer
from nimble_quake.render.shown.request import BenchRequest, BenchResponse

DEFAULT_BUDGET = 88 * 2**20
WORKERS = 2
FRAMES_A_JOB = 8
"""After so many frames a small job has its turn, although frames wait: else none is ever done where they never end."""
UNSAID = 5
"""So many pictures in a row give up what is said of them for the next one; then it is said, or it would never be."""
PATIENCE = 0.04
"""Seconds for which the next request is awaited while something is dragged, before anything is said of a picture."""


@dataclass
class _Run:
    """A frame under way, or a small job."""

    request: BenchRequest | None
    asked: int = 0
    """The number of its asking; 0 for a frame that is prepared ahead."""
    job: Callable[[], None] | None = None
    seen: bool = False
    """Its picture has been handed out: what is said of it follows."""

    @property
    def ahead(self) -> bool:
        return self.request is not None and not self.asked


class Scheduler:
    """`deliver(response)` is called on a render thread; the window must pass it to its own.

    `failed(error)` is told of a job that raised; the thread goes on with the next.
    """

    def __init__(
        self,
        engine: Engine,
        deliver: Callable[[BenchResponse], None],
        *,
        budget: int = DEFAULT_BUDGET,
        failed: Callable[[Exception], None] = lambda wrong: None,
    ) -> None:
        self._engine, self._deliver, self.budget, self._failed = engine, deliver, budget, failed
        self._wanted: BenchRequest | None = None
        self._asked = self._delivered = self._seen = self._unsaid = 0
        self._jobs: OrderedDict[str, Callable[[], None]] = OrderedDict()
        self._ahead: deque[BenchRequest] = deque()
        self._under_way: set[Hashable] = set()
        self._kept: OrderedDict[Hashable, BenchResponse] = OrderedDict()
        self._map: Bytes8 | None = None
        """The map that was handed out last."""
        self._used = self._working = self._live = self._since_job = 0
        self._wake = threading.Condition()
        self._stopping = False
        self.finished = 0
        """How many frames have been computed so far."""
        self.cost = 40.0
        """Running mean of milliseconds a frame took."""
        self._threads = [threading.Thread(target=self._work, name=f"frames-{n}", daemon=True) for n in range(WORKERS)]
        for thread in self._threads:
            thread.start()

    def ask(self, request: BenchRequest) -> None:
        """Ask for a frame now; an older one that has not begun is dropped."""
        with self._wake:
            self._wanted = request
            self._asked += 1
            self._wake.notify_all()

    def prepare(self, requests: Sequence[BenchRequest]) -> None:
        """Say which frames will be wanted next, the soonest first; replaces what was said before."""
        with self._wake:
            self._ahead = deque()
            for request in requests:
                if request.key() in self._kept:  # not the first to go when the others are there
                    self._kept.move_to_end(request.key())
                else:
                    self._ahead.append(request)
            self._wake.notify_all()

    def later(self, name: str, job: Callable[[], None]) -> None:
        """Run a small job when no frame waits, or after some that did; a newer one of the same name replaces it."""
        with self._wake:
            self._jobs[name] = job
            self._wake.notify()

    def ready(self, request: BenchRequest) -> BenchResponse | None:
        """Return the remembered response to a request."""
        with self._wake:
            key = request.key()
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
            return found

    def kept(self) -> list[BenchRequest]:
        """Return the requests whose responses are remembered."""
        with self._wake:
            return [response.request for response in self._kept.values()]

    @property
    def nbytes(self) -> int:
        """Memory held by remembered frames."""
        return self._used

    @property
    def busy(self) -> bool:
        """Whether anything waits or is being computed."""
        with self._wake:
            return bool(self._wanted or self._jobs or self._under_way or self._working or self._ahead)

    def stop(self) -> None:
        """End the threads; frames under way end before their next step."""
        with self._wake:
            self._stopping = True
            self._wake.notify_all()
        for thread in self._threads:
            thread.join(timeout=10)

    def _work(self) -> None:
        while True:
            with self._wake:
                while not self._stopping and self._wanted is None and not self._next_ahead() and not self._jobs:
                    self._wake.wait()
                if self._stopping:
                    return
                run = self._next()
                request = run.request
                if request is not None:
                    self._under_way.add(request.key())
                self._working += 1
                self._live += run.asked > 0
                row = self._ahead
            abandoned = False
            try:
                with abandoned_when(partial(self._unwanted, run)):
                    if run.job is not None:
                        run.job()
                    elif request is not None:
                        self._compute(run, request)
            except Abandoned:
                abandoned = True
            except Exception as wrong:  # one bad job must not end the thread that does them all
                self._failed(wrong)
            finally:
                with self._wake:
                    self._working -= 1
                    self._live -= run.asked > 0
                    self._unsaid += abandoned and run.seen
                    if abandoned and run.ahead and request is not None and row is self._ahead:
                        row.appendleft(request)  # another frame is waited for: this one is wanted still
                    if self._ahead:
                        self._wake.notify_all()
                    if request is not None:
                        self._under_way.discard(request.key())

    def _unwanted(self, run: _Run) -> bool:
        """Whether nobody waits for a run any more; for what is said of a picture, as soon as the next one is."""
        if run.ahead:
            return self._stopping or self._waited_for
        gives_way = run.request is not None and (run.request.refines or (run.seen and self._unsaid < UNSAID))
        return self._stopping or (gives_way and self._asked > run.asked)

    def _next(self) -> _Run:
        """What to do now: a frame, or a job."""
        if self._jobs and self._since_job >= FRAMES_A_JOB:
            self._since_job = 0
            return _Run(None, job=self._jobs.popitem(last=False)[1])
        request, live = self._wanted, self._asked
        self._wanted = None
        if request is None:
            request, live = self._next_ahead(), 0
            if request is not None:
                self._ahead.popleft()  # once each, though it fails or there is no memory to keep it
        if request is None:
            self._since_job = 0
            return _Run(None, job=self._jobs.popitem(last=False)[1])
        self._since_job += 1
        return _Run(request, live)

    @property
    def _waited_for(self) -> bool:
        return self._wanted is not None or self._live > 0

    def _next_ahead(self) -> BenchRequest | None:
        if self._waited_for:
            return None  # the processor is for the frame that is waited for
        while self._ahead and (self._ahead[0].key() in self._kept or self._ahead[0].key() in self._under_way):
            self._ahead.popleft()
        return self._ahead[0] if self._ahead else None

    def _compute(self, run: _Run, request: BenchRequest) -> None:
        def early(response: BenchResponse) -> None:
            with self._wake:
                stale = run.asked <= max(self._delivered, self._seen)
                if response.picture is None:
                    stale = stale or self._is_shown(response.map)
                else:
                    run.seen = True
                    self._seen = max(self._seen, run.asked)
            if not stale:
                self._deliver(response)
            if run.seen and request.dragged:
                with self._wake:
                    self._wake.wait_for(lambda: self._stopping or self._asked > run.asked, PATIENCE)

        with nullcontext() if run.asked else on_one_thread():  # ahead, the other threads have frames of their own
            response = answer(self._engine, request, early if run.asked and request.probe else None)
        with self._wake:
            self._under_way.discard(request.key())
            self.finished += 1
            self.cost += 0.0 if request.coarse else (response.milliseconds - self.cost) * 0.15
            if not request.probe:
                self._keep(request.key(), response)
            stale = run.asked <= self._delivered or run.asked < self._seen
            self._delivered = max(self._delivered, run.asked)
            self._unsaid = 0
        if run.asked and not stale:
            self._deliver(response)

    def _is_shown(self, map: Bytes8 | None) -> bool:
        """Whether a map is the one that was handed out last: nobody needs it before its picture."""
        last, self._map = self._map, map
        return map is not None and last is not None and (map is last or np.array_equal(map, last))

    def _keep(self, key: Hashable, response: BenchResponse) -> None:
        old = self._kept.pop(key, None)
        self._used += response.nbytes - (old.nbytes if old else 0)
        self._kept[key] = response
        while self._used > self.budget and len(self._kept) > 1:
            self._used -= self._kept.popitem(last=False)[1].nbytes
