"""Long lists of specimens, of which a page is read when it is looked at."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from typing import Generic, TypeVar, overload

from typing_extensions import override

T = TypeVar("T")
PAGE = 100
"""So many items are read at once."""
KEPT = 20
"""So many pages stay read."""


class PagedList(Sequence[T], Generic[T]):
    """Items of a list by their ids, read by the page.

    Parameters
    ----------
    ids : sequence of str
        Which items, in the order of the list.
    read : callable
        Reads those of some ids; what cannot be read is left out.
    unread : callable
        What stands in the place of one that could not be read.
    """

    def __init__(
        self,
        ids: Sequence[str],
        read: Callable[[Sequence[str]], Mapping[str, T]],
        unread: Callable[[str], T],
    ) -> None:
        self.ids = tuple(ids)
        self._read, self._unread = read, unread
        self._pages: OrderedDict[int, list[T]] = OrderedDict()

    @override
    def __len__(self) -> int:
        return len(self.ids)

    @overload
    def __getitem__(self, at: int) -> T: ...
    @overload
    def __getitem__(self, at: slice) -> list[T]: ...
    @override
    def __getitem__(self, at: int | slice) -> T | list[T]:
        if isinstance(at, slice):
            return [self[n] for n in range(*at.indices(len(self)))]
        page, within = divmod(range(len(self))[at], PAGE)
        return self._page(page)[within]

    def _page(self, number: int) -> list[T]:
        if number not in self._pages:
            ids = self.ids[number * PAGE : (number + 1) * PAGE]
            found = self._read(ids)
            self._pages[number] = [found[i] if i in found else self._unread(i) for i in ids]
            while len(self._pages) > KEPT:
                self._pages.popitem(last=False)
        self._pages.move_to_end(number)
        return self._pages[number]
