"""Judged queries on the demo's scanned pages: what is printed on a page is graded, whatever the machine read there.

A page that tells of the matter is 3; one on which the words of `beside` are printed as well is 1; some others are 0.
"""

from dataclasses import dataclass

MISREAD = "word read wrong"
PHRASE = "phrase across a line end"


@dataclass(frozen=True)
class PageQuery:
    """query: as typed; need: in words; trouble: what makes it hard; pages: those that tell of it; beside: words by which
    others touch on it."""

    query: str
    need: str
    trouble: str
    pages: tuple[str, ...]
    beside: tuple[str, ...] = ()


# fmt: off
QUERIES = (
    PageQuery("seals", "Seals, the animals, and where they were a nuisance.", MISREAD, ("lanner-rock-log/01",)),
    PageQuery("smuggler", "Smuggling, and those who chased smugglers.", MISREAD, ("lanner-rock-log/03", "salt-office-letters/04")),
    PageQuery("sea serpent", "The sea serpent that somebody says they saw.", MISREAD, ("lanner-rock-log/05",)),
    PageQuery("starlings", "Birds that settled on a lantern.", MISREAD, ("lanner-rock-log/07",), ("cormorant",)),
    PageQuery("mason's scaffold", "The mason and his scaffold that the storm took.", MISREAD, ("lanner-rock-log/08",)),
    PageQuery("biscuit", "What people lived on when no boat came.", MISREAD, ("lanner-rock-log/09",), ("fig", "pea soup")),
    PageQuery("sand substituted for salt", "Fraud with sacks of salt.", MISREAD, ("salt-office-letters/01",)),
    PageQuery("surveyor", "Whoever came to assess the sea wall.", MISREAD, ("salt-office-letters/03",)),
    PageQuery("scalded", "People who were scalded.", MISREAD, ("salt-office-letters/05",), ("scalded",)),
    PageQuery("press gang", "Men taken by the press gang.", MISREAD, ("salt-office-letters/08",)),
    PageQuery("lightning struck", "Lightning that struck a lighthouse.", MISREAD, ("lanner-rock-log/04",)),
    PageQuery("pestilence", "Sickness among the oxen.", MISREAD, ("salt-office-letters/06",)),
    PageQuery("horses seized", "Horses and a sled seized with salt on them.", MISREAD, ("salt-office-letters/04",)),
    PageQuery("harmonium", "The harmonium from a drowned chapel.", MISREAD, ("cudworth-letters/01",)),
    PageQuery("lifeboat", "Where a lifeboat took people off.", MISREAD, ("kestrel-ness-log/07",)),
    PageQuery("figurehead", "The figurehead that a sea carried away.", MISREAD, ("corisande-log/04",)),
    PageQuery('"fog bell cracked"', "The fog bell that cracked in the frost.", PHRASE, ("kestrel-ness-log/01",)),
    PageQuery('"cask of turpentine"', "The cask that came ashore.", PHRASE, ("kestrel-ness-log/03",)),
    PageQuery('"northern lights very fine"', "The northern lights over the fishing grounds.", PHRASE, ("ebb-and-flow-log/08",)),
    PageQuery('"german steamer"', "The steamer that ran a trawler down.", PHRASE, ("ebb-and-flow-log/02",)),
)
# fmt: on
