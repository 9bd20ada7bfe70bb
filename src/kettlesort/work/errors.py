"""What a person is told when something cannot be done."""

from __future__ import annotations


class Refused(Exception):
    """Something cannot be done; the message is for the person, and says what to do."""

    status = 400

    def __init__(self, message: str, **details: object) -> None:
        super().__init__(message)
        self.message = message
        self.details = details


class NotSignedIn(Refused):
    """Nobody is signed in."""

    status = 401


class NotAllowed(Refused):
    """The role does not allow it."""

    status = 403


class NotFound(Refused):
    """There is no such thing in this review."""

    status = 404


class Conflict(Refused):
    """Somebody else was faster, or the state has changed."""

    status = 409


class TooLarge(Refused):
    """More than is accepted."""

    status = 413


class Invalid(Refused):
    """What was typed or uploaded does not fit."""

    status = 422


class TooMany(Refused):
    """Too many attempts."""

    status = 429


class Busy(Refused):
    """Something else takes its time; the same may be tried again."""

    status = 503
