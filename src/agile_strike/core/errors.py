"""What can be wrong with what was brought in: each error says what, where and what to do."""

import unicodedata


def plain(text: str) -> str:
    """Text on one line that can be shown and kept: what can't be is left as a mark in its place."""
    return "".join(
        c if unicodedata.category(c) not in ("Cc", "Cs", "Zl", "Zp") else " " if c in "\t\n\r" else "\ufffd"
        for c in text
    )


class BadInput(Exception):
    """Anything a user can mend. The message is one line, fit to be shown as it is, whatever a file held."""

    def __init__(self, message: str) -> None:
        super().__init__(plain(message))


class ImpossibleBag(BadInput):
    def __init__(self, what: str, value: object, wanted: str) -> None:
        super().__init__(f"StrikeTarget {what} is {str(value)[:40]}: it must be {wanted}. Correct it and import again.")


class BadFile(BadInput):
    """One file is wrong: its name, the line where there is one, what is wrong and the remedy."""

    def __init__(self, file: str, what: str, remedy: str, line: int | None = None) -> None:
        self.file, self.line = file, line
        where = file if line is None else f"{file}, line {line}"
        super().__init__(f"{where}: {what}. {remedy}")


class ChangedMeanwhile(BadInput):
    """Somebody else changed what a coach was looking at; the message says what it is now. Nothing was saved."""

    def __init__(self, what: str, now: str) -> None:
        super().__init__(f"Somebody changed {what} meanwhile: {now}. Look at it, then change it again.")


class NotYours(BadInput):
    """What is asked for is not there, or not this gym's: who asks is told the same of both."""

    def __init__(self, what: str) -> None:
        super().__init__(f"There is no such {what} in this gym.")
