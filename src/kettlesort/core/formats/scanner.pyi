from collections.abc import Iterator

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem
from kettlesort.core.formats.tagged import Layout, Make

class Scanner(Iterator[Entry]):
    def __init__(self, layout: Layout, make: Make, problems: list[Problem]) -> None: ...
    def feed(self, data: bytes) -> Scanner: ...
    def __next__(self) -> Entry: ...
