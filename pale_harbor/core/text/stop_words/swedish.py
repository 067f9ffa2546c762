"""Swedish words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "all alla allt att av blev bli blir blivit de dem den denna deras dess dessa det detta dig din dina ditt du "
        "där då efter ej eller en er era ett från för ha hade han hans har henne hennes hon honom hur här i icke in "
        "ingen inget innan inom inte jag ju kan kunde man med mellan men mig min mina mitt mot mycket ni nu när någon "
        "något några och om oss på samma sedan sig sin sina sitt själv skulle som så sådan till under upp ut utan vad "
        "var vara varför varit varje vars vart vem vi vid vilka vilken vilket vår våra vårt är över "
    ).split()
)
