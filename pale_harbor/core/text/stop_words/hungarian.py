"""Hungarian words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "a abban ahhoz ahogy ahol aki akik akkor alatt amely amelyek amelyet ami amikor amit amíg arra arról az azok "
        "azon azonban azt aztán azután azzal be belül benne cikk csak de e eddig egy egyes egyetlen egyik egyre egyéb "
        "egész ekkor el ellen első elég elő először előtt erre ez ezek ezen ezt ezzel fel felé ha hanem hiszen hogy "
        "hogyan igen ill illetve ilyen is ismét itt jobban jó jól kell kellett keresztül ki kívül közben között közül "
        "le legyen lehet lehetett lenne lenni lesz lett maga magát majd meg mellett mely melyek mert mi minden mindig "
        "mint mintha mit mivel miért most már más másik még nagy nagyon ne nekem neki nem nincs néha néhány olyan ott "
        "pedig persze rá s saját sem semmi sok sokat sokkal szemben szerint szinte számára talán tehát teljes tovább "
        "továbbá több ugyanis utolsó után utána vagy vagyis valaki valami valamint való van vannak vele vissza "
        "viszont volna volt voltak voltam által általában át én éppen és így össze úgy új újra ő ők őket "
    ).split()
)
