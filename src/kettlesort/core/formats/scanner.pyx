# cython: language_level=3, boundscheck=False, wraparound=False, cdivision=True
"""Scanning tagged text: one tag a line, values that may run over several lines.

A file of a million records has thirty million lines, and each is seen here once: its
first bytes are looked up, and its value is cut out and goes where the answer says. What
a record means is said elsewhere, in Python; this is only where the time goes.
"""

import re

from cpython.unicode cimport PyUnicode_DecodeUTF8
from libc.stdint cimport uint64_t
from libc.string cimport memchr, memcmp, memcpy

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.recipe import NUMBERED
from kettlesort.core.formats.source import Problem, heading

_TAG_LINE = re.compile(r"([A-Z][A-Z0-9]{1,3}) {0,2}-(?: |$)")
_TAGGED = re.compile(r"[A-Z][A-Z0-9]{1,3} {0,2}- ")
_NOTHING = "\x00\x1a\ufeff\x0c\t "

cdef extern from "Python.h":
    str PyUnicode_New(Py_ssize_t size, Py_UCS4 highest)
    void *PyUnicode_DATA(str text)

cdef enum:
    RANKS = 8  # tags of one field, at most
    FIELDS = 25  # fields of one value, at most
    SEVERAL = 200  # places from here on are lists: FIELDS * RANKS
    REST = 250
    START = 251
    END = 252
    UNKNOWN = 253
    SLOTS = 1024


cdef class Scanner:
    """Iterates over the records of the UTF-8 that it was fed with last; lines and places are counted from piece to piece.

    Text outside every record is told to ``problems`` with its line.
    """

    cdef object make
    cdef list problems
    cdef bytes data
    cdef bytearray wrapped  # where a value of several lines is put together
    cdef str start, end
    cdef tuple names
    cdef Py_ssize_t at, line, position, singles, severals
    cdef Py_ssize_t plain  # up to here, from where it reads, the data is ASCII
    cdef int dash, place_of_start, full, short  # places
    cdef bint begins  # a record is known to begin here
    cdef unsigned long long factor
    cdef unsigned long long keys[SLOTS]
    cdef int places[SLOTS]
    cdef dict others  # names of the tags that fill no field, by their key
    cdef object new

    def __init__(self, layout, make, list problems):
        self.make = make
        self.problems = problems
        self.data, self.wrapped, self.others, self.new = b"", bytearray(), {}, tuple.__new__
        self.at = self.position = 0
        self.line = 1
        self.start, self.end, self.names, self.dash = layout.start, layout.end, layout.single, layout.dash
        self.singles, self.severals = len(layout.single), len(layout.several)
        if self.singles > FIELDS or any(len(tags) > RANKS for tags in layout.single):
            raise ValueError(f"a layout has at most {FIELDS} fields of {RANKS} tags")
        places = {}
        for field, tags in enumerate(layout.single):
            for rank, tag in enumerate(tags):
                places[layout.head_of(tag)] = field * RANKS + rank
        for field, tags in enumerate(layout.several):
            for tag in tags:
                places[layout.head_of(tag)] = SEVERAL + field
        self.place_of_start = places.get(layout.head_of(layout.start), REST)
        places[layout.head_of(layout.start)] = START
        self.full, self.short = (places[layout.head_of(tag)] for tag in layout.pair) if layout.pair else (-1, -1)
        if layout.end:
            places[layout.head_of(layout.end)] = END
        self.lay_out(places)

    cdef lay_out(self, dict places):
        """Fill the tables, with a factor that gives each tag a slot of its own."""
        cdef bytes head
        cdef int k, slot
        self.factor = 0x9E37
        while len({self.slot(key_of(head, self.dash)) for head in places}) < len(places):
            self.factor += 2
        for k in range(SLOTS):
            self.keys[k], self.places[k] = 0, UNKNOWN
        for head, place in places.items():
            slot = self.slot(key_of(head, self.dash))
            self.keys[slot], self.places[slot] = key_of(head, self.dash), place

    def feed(self, bytes data):
        """Go on with ``data``, which begins where a line begins and ends with a line's end."""
        self.data = data
        self.at, self.plain, self.begins = 0, 0, False
        if len(self.wrapped) < len(data):
            self.wrapped = bytearray(len(data))
        return self

    def __iter__(self):
        return self

    def __next__(self):
        if not self.begins:
            self.skip()
        if self.at >= len(self.data):
            raise StopIteration
        return self.entry()

    cdef inline int slot(self, unsigned long long key) noexcept:
        return (key * self.factor >> 20) % SLOTS

    cdef inline int place(self, const unsigned char *line, Py_ssize_t size) noexcept:
        """What a line of ``size`` bytes and its end says: where its value goes."""
        cdef unsigned long long key
        cdef int slot
        if size <= self.dash or line[self.dash] != b"-" or (line[self.dash + 1] != b" " and line[self.dash + 1] != b"\n"):
            return UNKNOWN
        key = key_of(line, self.dash)
        slot = self.slot(key)
        if self.keys[slot] == key:
            return self.places[slot]
        return REST if is_tag(line, self.dash) else UNKNOWN

    cdef str other(self, const unsigned char *line):
        """The name of a tag that fills no field."""
        cdef unsigned long long key = key_of(line, self.dash)
        name = self.others.get(key)
        if name is None:
            name = text_of(line, 0, self.dash, True).rstrip(" ")
            if len(self.others) < SLOTS:
                self.others[key] = name
        return name

    cdef skip(self):
        """Go to the line that begins the next record, or to the end."""
        cdef const unsigned char *data = self.data
        cdef Py_ssize_t size = len(self.data), at = self.at, line = self.line, end
        cdef bint told = False, said = False
        while at < size:
            end = line_end(data, at, size)
            if self.place(data + at, end - at) == START:
                break
            shown = "" if told else text_of(data, at, end, False).strip(_NOTHING).strip()
            if shown and not NUMBERED.match(shown):
                if self.position or _TAGGED.match(shown):
                    told = True
                    self.problems.append(Problem(line, f"text outside any record, not read: “{shown[:60]}{'…' if len(shown) > 60 else ''}”"))
                elif not said:
                    said = True
                    self.problems.append(heading(line, shown))
            at, line = end + 1, line + 1
        self.at, self.line = at, line

    cdef entry(self):
        """The record whose first line begins here."""
        cdef const unsigned char *data = self.data
        cdef unsigned char *wrapped = self.wrapped
        cdef Py_ssize_t size = len(self.data), head = self.dash + 2
        cdef Py_ssize_t begun = self.at, at = self.at, first = self.line, line = self.line
        cdef Py_ssize_t begin, end, length, stop = at, last_line = line, plain = self.plain
        cdef int place, field, last = REST
        cdef bint ended = False, hollow = False, begins = False, ascii = True
        cdef unsigned char holders[FIELDS]  # the tag that each value came from
        cdef list values = [""] * self.singles
        cdef list lists = [[] for _ in range(self.severals)], rest = [], more = []
        cdef str value, kept, name, raw
        self.position += 1
        while at < size:
            end = line_end(data, at, size)
            if end == at:
                at, line = at + 1, line + 1
                continue
            if plain < end:
                plain = plain_until(data, plain if plain > at else at, size)
                ascii = ascii and plain >= end
            begin, place, name = at + head, self.place(data + at, end - at), ""
            if place == REST:
                name = self.other(data + at)
            elif place == START:
                if at > begun:
                    begins = True
                    break
                place, name = self.place_of_start, self.start
            elif place == END:
                ended = True
                at, stop, last_line, line = end + 1, end, line, line + 1
                break
            elif place == UNKNOWN:
                value = text_of(data, at, end, end <= plain)
                tag = _TAG_LINE.match(value)
                if tag is None:
                    value = value.strip(_NOTHING)
                    if value:
                        more.append(value)
                        stop, last_line = end, line
                    at, line = end + 1, line + 1
                    continue
                name, begin = tag[1], at + tag.end()
                line_of_tag = name.encode().ljust(self.dash) + b"- "
                place = self.place(line_of_tag, len(line_of_tag))
                if place == START:
                    place = self.place_of_start
                elif place == END:
                    at, line, last = end + 1, line + 1, REST
                    continue
                elif place == UNKNOWN:
                    place = REST
            if more:
                go_on(" ".join(more), last, values, lists, rest)
                more = []
            if place == self.short and last == self.full and not is_wrapped(data, end, size):
                at, stop, last_line, last, line = end + 1, end, line, place, line + 1
                continue
            while begin < end and data[begin] == b" ":
                begin += 1
            if is_wrapped(data, end, size):
                length = end - begin if end > begin else 0
                memcpy(wrapped, data + begin, length)
                while is_wrapped(data, end, size):
                    begin = end + 7
                    end = line_end(data, begin, size)
                    wrapped[length] = b" "
                    memcpy(wrapped + length + 1, data + begin, end - begin)
                    length += 1 + end - begin
                    line += 1
                ascii = ascii and plain >= end
                value = text_of(wrapped, 0, length, end <= plain)
            else:
                value = text_of(data, begin, end, end <= plain)
            at, stop, last_line = end + 1, end, line
            line += 1
            last = place
            if value and (value[0].isspace() or value[len(value) - 1].isspace()):
                value = value.strip()
            if not value:
                if place == REST:  # what follows may belong to it
                    rest.append((name, value))
                    hollow = True
            elif place == REST:
                rest.append((name, value))
            elif place >= SEVERAL:
                (<list>lists[place - SEVERAL]).append(value)
            else:
                field = place // RANKS
                kept = values[field]
                if not kept:
                    values[field] = value
                    holders[field] = place
                elif value != kept:
                    if place < holders[field]:
                        values[field], value = value, kept
                        place, holders[field] = holders[field], place
                    rest.append((self.names[field][place % RANKS], value))
                    last = REST
        if more:
            go_on(" ".join(more), last, values, lists, rest)
        self.at, self.line, self.plain, self.begins = at, line, plain, begins
        if hollow:
            rest = [it for it in rest if it[1]]
        if self.end and not ended:
            self.problems.append(Problem(first, f"the end of the record ({self.end}) is missing; the file may have been cut off here"))
        raw = text_of(data, begun, stop, ascii)
        if raw[len(raw) - 1].isspace():
            kept = raw.rstrip()
            last_line -= raw.count("\n", len(kept))
            raw = kept
        return self.new(Entry, (self.position, first, last_line, raw, self.make(values, lists, rest, first, self.problems)))


cdef inline str text_of(const unsigned char *data, Py_ssize_t begin, Py_ssize_t end, bint plain):
    """The text of some bytes; they are not looked at again where they are known to be ASCII."""
    cdef str text
    if end <= begin:
        return ""
    if not plain or end == begin + 1:
        return PyUnicode_DecodeUTF8(<const char *>data + begin, end - begin, NULL)
    text = PyUnicode_New(end - begin, 127)
    memcpy(PyUnicode_DATA(text), data + begin, end - begin)
    return text


cdef inline Py_ssize_t plain_until(const unsigned char *data, Py_ssize_t at, Py_ssize_t size) noexcept:
    """Where the first byte from ``at`` on is that is not ASCII, or the end."""
    cdef uint64_t eight
    while at + 8 <= size:
        memcpy(&eight, data + at, 8)
        if eight & <uint64_t>0x8080808080808080:
            break
        at += 8
    while at < size and data[at] < 0x80:
        at += 1
    return at


cdef inline unsigned long long key_of(const unsigned char *line, int dash) noexcept:
    """A number for the bytes before the dash, at most seven."""
    cdef unsigned long long key = 0
    cdef int k
    for k in range(dash):
        key = key << 8 | line[k]
    return key


cdef inline bint is_tag(const unsigned char *line, int dash) noexcept:
    """Whether two or more capitals and digits, and then only blanks, stand before the dash."""
    cdef int end = 0
    while end < dash and (b"A" <= line[end] <= b"Z" or (end and b"0" <= line[end] <= b"9")):
        end += 1
    if end < 2:
        return False
    while end < dash and line[end] == b" ":
        end += 1
    return end == dash


cdef inline bint is_wrapped(const unsigned char *data, Py_ssize_t end, Py_ssize_t size) noexcept:
    """Whether the line after the one that ends here begins with six blanks."""
    return end + 7 < size and memcmp(data + end + 1, b"      ", 6) == 0


cdef inline Py_ssize_t line_end(const unsigned char *data, Py_ssize_t at, Py_ssize_t size) noexcept:
    return <const unsigned char *>memchr(data + at, b"\n", size - at) - data


cdef go_on(str more, int last, list values, list lists, list rest):
    """Add what stood on lines without a tag to the value that it goes on with."""
    cdef list cell
    if last < SEVERAL:
        values[last // RANKS] = f"{values[last // RANKS]} {more}".lstrip(" ")
    elif last < REST:
        cell = lists[last - SEVERAL]
        if cell:
            cell.append(f"{cell.pop()} {more}")
        else:
            cell.append(more)
    elif rest:
        name, kept = rest.pop()
        rest.append((name, f"{kept} {more}".lstrip(" ")))
