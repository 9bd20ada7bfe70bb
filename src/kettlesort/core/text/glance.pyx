# cython: language_level=3, boundscheck=False, wraparound=False
"""Whether a text is as nearly all are: told at a glance, so that only the rest is looked at closely.

What these say yes to needs nothing done; what they say no to may need something.
"""

cdef extern from *:
    """
    /* without a branch, so that the compiler does it to many bytes at once */
    __attribute__((optimize("O3"))) static unsigned char a_control_is_in(const unsigned char *data, Py_ssize_t size) {
        unsigned char found = 0;
        for (Py_ssize_t k = 0; k < size; k++)
            found |= (unsigned char)((data[k] < 0x20 && data[k] != '\\t' && data[k] != '\\n') || data[k] == 0x7f);
        return found;
    }
    """
    unsigned char a_control_is_in(const unsigned char *data, Py_ssize_t size)

cdef enum:
    NEVER = 1  # in no name that is as it should be
    DIGIT = 2
    INSIDE = 4  # may stand in a DOI

cdef unsigned char SIGNS[128]
for code in range(128):
    SIGNS[code] = NEVER if code < 32 or chr(code) in ';|&"@#/*0123456789' else 0
    if chr(code).isalnum() or chr(code) in "-._/()":
        SIGNS[code] |= INSIDE
    if chr(code).isdigit():
        SIGNS[code] |= DIGIT


def plain_lines(bytes text not None):
    """Whether bytes hold no control character but tabs and line feeds."""
    return not a_control_is_in(text, len(text))


def plain_text(str text not None):
    """Whether a text has no mark-up, no entity, nothing that may not be kept, and no white space but single blanks within."""
    cdef Py_UCS4 sign, last = u" "
    for sign in text:
        if sign == u" ":
            if last == u" ":
                return False
        elif sign < 0x21 or sign == u"<" or sign == u"&" or (sign >= 0x7f and (sign < 0xa1 or 0xd800 <= sign < 0xe000 or sign.isspace())):
            return False
        last = sign
    return last != u" " or not text


def nothing_to_settle(str doi not None, str volume not None, year, str date not None, authors, str raw not None):
    """Whether all of a record is plainly in its place, as it is in most: its DOI, a volume of letters and figures, a date of its year, people one by one; all in ASCII."""
    return raw.isascii() and (doi or "10." not in raw) and volume.isalnum() and year is not None and (year_at_first(date) == year or str(year) in date) and plain_names(authors)


cdef tuple latest = ()  # names that were plain: a reader asks of them, and whatever settles its record asks once more


cpdef bint plain_names(names) except -1:
    """Whether each of ``names`` is one person as "Family, Given": one comma and a blank after it, and nothing that no name holds."""
    global latest
    if names is latest:
        return True
    if not are_plain(names):
        return False
    if type(names) is tuple:
        latest = names
    return True


cdef bint are_plain(names) except -1:
    cdef str name
    cdef Py_UCS4 sign
    cdef Py_UCS4 last[4]
    cdef bint comma
    for name in names:
        comma = False
        last[0] = last[1] = last[2] = last[3] = 0
        for sign in name:
            if sign < 128 and SIGNS[sign] & NEVER:
                return False
            if last[0] == u"," and sign != u" ":
                return False
            if sign == u",":
                if comma or last[0] == u" ":
                    return False
                comma = True
            elif sign == u" " and (last[0] == u" " or (last[0] == u"d" and last[1] == u"n" and last[2] == u"a" and last[3] == u" ")):
                return False
            last[3], last[2], last[1], last[0] = last[2], last[1], last[0], sign
        if not comma or last[0] == u"," or last[0] == u" ":
            return False
    return True


cpdef int year_at_first(str text) except -1:
    """The year from 1500 to 2099 that a text begins with, as most dates do; 0 where it begins otherwise."""
    cdef Py_ssize_t size = len(text)
    cdef int k, year = 0
    cdef Py_UCS4 sign
    if size < 4 or (size > 4 and text[4].isdigit()):
        return 0
    for k in range(4):
        sign = text[k]
        if not u"0" <= sign <= u"9":
            return 0
        year = 10 * year + <int>sign - 48
    return year if 1500 <= year < 2100 else 0


def plain_doi(str text not None):
    """Whether a text is a DOI and nothing else: ``10.``, four to nine digits, a stroke and plain signs that end with a letter or digit."""
    cdef Py_ssize_t size = len(text), at = 3
    cdef Py_UCS4 sign
    if size < 9 or text[0] != u"1" or text[1] != u"0" or text[2] != u".":
        return False
    while at < size and at < 13 and text[at] < 128 and SIGNS[text[at]] & DIGIT:
        at += 1
    if at < 7 or at == 13 or at + 1 >= size or text[at] != u"/":
        return False
    for at in range(at + 1, size):
        sign = text[at]
        if sign >= 128 or not SIGNS[sign] & INSIDE:
            return False
    return u"0" <= sign <= u"9" or u"a" <= sign <= u"z" or u"A" <= sign <= u"Z"
