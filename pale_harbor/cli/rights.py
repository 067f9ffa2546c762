"""What every command needs of whoever gives it, by the words that it is called by.

Whoever can read the data folder keeps the installation, and may everything. One who says in PALEHARBOR_PERSON who they
are may what that person may, and what they change carries their name.
"""

from collections.abc import Mapping
from typing import Final

# By their values (work/people/rights.py): a command that looks loads nothing for this.
TABLE: Final[Mapping[str, tuple[str, ...]]] = {
    "anybody": ("up", "down", "serve", "version", "score", "chain run", "ranker file-diff"),
    "signed in": ("collection list",),
    "look": (
        *("export", "search", "complete", "correct", "passages", "measure", "missed", "run", "runs", "compare"),
        *("check", "quality", "letters", "diary", "sides"),
        *("chain list", "chain consequences", "words get", "words list"),
        *("ranker get", "ranker list", "ranker near", "ranker diff", "ranker export"),
        *("judged list", "judged export", "judged standing", "judged expected", "past show", "task list"),
        *("outside list", "space list", "space cost", "space nearest", "record deleted", "record get"),
        *("collection imports", "collection rejected", "collection reading", "publish show", "key list"),
        *("connection list", "follow show", "follow unfit"),
    ),
    "change": (
        *("load", "tune", "ledger", "growth", "remedies", "simulate", "decide", "chain put", "words put", "ranker put"),
        *("ranker import",),
        *("judged load", "judged make", "judged drop", "judged add", "judged rules", "judged settle"),
        *("judged confirm", "judged expect", "judged expect-no-more", "judged complain", "past load", "past drop"),
        *("past log", "past gather", "task confirm"),
        *("task make", "task link", "task close", "task drop", "outside run", "outside put", "outside ask"),
        *("outside drop", "space make", "space fill", "space drop", "space bring"),
        *("connection put", "connection try", "connection tables", "connection drop"),
        *("follow draft", "follow look", "follow script", "follow put", "follow catch-up", "follow pause"),
        *("follow go-on", "follow compare", "follow agree", "follow end"),
        *("record put", "record delete", "record restore", "collection pictures", "collection undo-import"),
    ),
    "own": (
        *("changes", "collection rename", "collection drop"),
        *("member list", "member set", "member drop", "member invite"),
        *("publish live", "publish back", "publish candidate", "publish no-candidate", "publish rules"),
        *("visitors", "key visitor", "key program", "key change", "key revoke"),
    ),
    "make": ("collection copy",),
    "keep": (
        *("embedder", "person add", "person list", "person change", "person password", "person forget"),
        *("person invite", "backup", "restore", "upgrade"),
    ),
}
_RIGHT_OF: Final = {command: right for right, commands in TABLE.items() for command in commands}
_CHANGING: Final = ("change", "own", "make", "keep")
# Of these, what only tells.
_TELLS: Final = ("changes", "member list", "person list")


def right_of(command: str) -> str:
    """What a command needs. Raises KeyError for one that the table does not have."""
    return _RIGHT_OF[command]


def is_noted(command: str) -> bool:
    """Whether it stands in the list of changes once it was given."""
    return right_of(command) in _CHANGING and command not in _TELLS
