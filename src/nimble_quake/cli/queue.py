"""`nimble-quake queue`: the orders that wait, how far they are, and what is wished of them."""

from __future__ import annotations

import json
from typing import Annotated

from nimble_quake.cli.words import Option
from nimble_quake.session.queue.queue import Entry, Queue
from nimble_quake.session.queue.running import lower_priority, run_queue
from nimble_quake.session.work import duration


def run(
    work: Annotated[bool, Option("--run", help="Render all that waits, here, then end")] = False,
    pause: Annotated[str, Option(help="Let an order wait: its id, or all")] = "",
    go: Annotated[str, Option(help="Let an order go on: its id, or all")] = "",
    cancel: Annotated[str, Option(help="Give an order up: its id")] = "",
    missing: Annotated[str, Option(help="Render what is missing of an order that failed: its id")] = "",
    first: Annotated[str, Option(help="Put an order before all others: its id")] = "",
    report: Annotated[bool, Option("--json", help="List the orders as JSON, for programs")] = False,
) -> int:
    """List the render queue, or change it. Example: nimble-quake render a.nquake -o a.mp4 --queue"""
    queue = Queue()
    if work:
        lower_priority()
        queue.remove_leftovers()
        run_queue(queue, print)
        return 0
    for id, paused in ((pause, True), (go, False)):
        if id == "all":
            queue.pause_all(paused=paused)
        elif id:
            queue.pause(id, paused=paused)
    if cancel:
        queue.cancel(cancel)
    if missing:
        queue.again(missing)
    if first:
        queue.move(queue.entry(first).id, -len(queue.entries()))
    queue.start()
    entries = queue.entries()
    if report:
        print(json.dumps([_report(entry) for entry in entries]))
        return 0
    for entry in entries:
        print(f"{entry.id}  {line_of(entry)}")
    if queue.paused:
        print("the queue waits; --go all lets it go on")
    return 0


def line_of(entry: Entry) -> str:
    """Return an order and how far it is, in one line."""
    left = entry.status.left
    more = f", {duration(left)} left" if entry.state == "running" and left is not None else ""
    why = entry.status.line or next(iter(entry.status.failures.values()), "")
    why = f": {why}" if entry.finished and why else ""
    return f"{entry.order.file}  {entry.state}, {entry.status.done} of {entry.order.count}{more}{why}"


def _report(entry: Entry) -> dict[str, object]:
    return {
        "id": entry.id,
        "file": str(entry.order.file),
        "state": entry.state,
        "done": entry.status.done,
        "frames": entry.order.count,
        "failures": entry.status.failures,
        "line": entry.status.line,
        "files": list(entry.status.files),
        "problems": list(entry.status.problems),
    }
