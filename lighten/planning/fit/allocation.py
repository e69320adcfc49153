"""Choice of a candidate for each picture, so that all fit the limit and lose least."""

import heapq
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lighten.model.plans import Plan
from lighten.model.weights import Part
from lighten.planning.fit.candidates import Candidate

__all__ = ["Choice", "Task", "allocate", "choice_of"]


@dataclass(frozen=True, slots=True)
class Choice:
    """One picture. steps: from what nothing is lost by, each step down worth its loss.

    between: all that no other candidate beats in both weight and looks, heaviest first.
    """

    part: Part
    steps: tuple[Candidate, ...]
    between: tuple[Candidate, ...]


@dataclass(frozen=True, slots=True)
class Task:
    """One document: what stays whatever is chosen, and what can be chosen."""

    base: Plan
    fixed_bytes: float
    choices: tuple[Choice, ...]
    untried: int

    @property
    def lightest_bytes(self) -> float:
        return self.fixed_bytes + sum(choice.steps[-1].size_bytes for choice in self.choices)


def allocate(tasks: Sequence[Task], limit_bytes: int) -> list[list[Candidate]]:
    """Return the choice for each document and picture.

    Every step is taken where it costs least for the bytes it saves, so a larger limit takes a
    part of the steps of a smaller one. Source: Shoham and Gersho, IEEE Trans. Acoustics, Speech
    and Signal Processing 36(9), 1988: bit allocation over convex hulls.
    """
    taken = [[0] * len(task.choices) for task in tasks]
    total = sum(
        task.fixed_bytes + sum(choice.steps[0].size_bytes for choice in task.choices)
        for task in tasks
    )
    waiting: list[tuple[float, int, int]] = []

    def offer(document: int, picture: int) -> None:
        steps, step = tasks[document].choices[picture].steps, taken[document][picture]
        if step + 1 < len(steps):
            heapq.heappush(waiting, (_price(steps[step], steps[step + 1]), document, picture))

    for document, task in enumerate(tasks):
        for picture in range(len(task.choices)):
            offer(document, picture)
    last: tuple[int, int] | None = None
    while total > limit_bytes and waiting:
        _, document, picture = heapq.heappop(waiting)
        steps, step = tasks[document].choices[picture].steps, taken[document][picture]
        total -= steps[step].size_bytes - steps[step + 1].size_bytes
        taken[document][picture] += 1
        last = document, picture
        offer(document, picture)
    chosen = [
        [choice.steps[step] for choice, step in zip(task.choices, steps, strict=True)]
        for task, steps in zip(tasks, taken, strict=True)
    ]
    if last is not None and total <= limit_bytes:
        document, picture = last
        now = chosen[document][picture]
        room = limit_bytes - total + now.size_bytes
        # The last step may have been longer than it had to be. What lies between its ends loses
        # more than the upper one, so a larger limit still loses no more.
        between = tasks[document].choices[picture].between
        chosen[document][picture] = next(
            (candidate for candidate in between if candidate.size_bytes <= room), now
        )
    return chosen


def choice_of(part: Part, candidates: Iterable[Candidate]) -> Choice:
    """Return the candidates in order, without dominated ones."""
    between: list[Candidate] = []
    for candidate in sorted(candidates, key=lambda one: (one.loss, one.size_bytes)):
        if not between or candidate.size_bytes < between[-1].size_bytes:
            if between and candidate.loss == between[-1].loss:
                between.pop()
            between.append(candidate)
    hull: list[Candidate] = []
    for candidate in between:
        while len(hull) > 1 and _price(hull[-2], hull[-1]) >= _price(hull[-1], candidate):
            hull.pop()
        hull.append(candidate)
    return Choice(part, tuple(hull), tuple(between))


def _price(now: Candidate, then: Candidate) -> float:
    return (then.loss - now.loss) / (now.size_bytes - then.size_bytes)
