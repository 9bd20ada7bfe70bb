"""Routes that ask a service outside: they wait in a place of their own, so that one that hangs holds up nobody else."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Awaitable, Callable
from functools import partial, wraps
from typing import Any, ParamSpec, TypeVar

from anyio import CapacityLimiter, to_thread

from kettlesort.work.errors import Busy

P = ParamSpec("P")
T = TypeVar("T")
ALL, REVIEW, WAITING = 16, 4, 12
"""So many questions are asked side by side, of these so many for one review; and so many of a review may wait."""
_all = CapacityLimiter(ALL)
_of_review: defaultdict[int, CapacityLimiter] = defaultdict(lambda: CapacityLimiter(REVIEW))


def asks_outside(route: Callable[P, T]) -> Callable[P, Awaitable[T]]:
    """A route that asks a service outside on behalf of its ``member``."""

    @wraps(route)
    async def asked(*args: P.args, **kwargs: P.kwargs) -> T:
        member: Any = kwargs["member"]
        place = _of_review[member.review]
        if place.statistics().tasks_waiting >= WAITING:
            raise Busy("Many questions to catalogues and registries are under way in this review. Please try again when some are answered.")
        async with place:
            return await to_thread.run_sync(partial(route, *args, **kwargs), limiter=_all)

    return asked
