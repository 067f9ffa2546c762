"""French words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "ai aie aient ait as au aura aurait aussi autre aux avaient avait avant avec avoir ayant c car ce ceci cela "
        "ces cet cette ceux chaque ci comme comment d dans de des donc dont du elle elles en encore entre es est et "
        "eu eut eux fait font furent fut ici il ils j je jusque l la le les leur leurs lui m ma mais me mes moi mon "
        "même n ne ni nos notre nous on ont ou où par parce pas pendant peu peut plus pour pourquoi qu quand que quel "
        "quelle quelles quels qui quoi s sa sans se sera serait ses si sien soit son sont sous sur t ta te tes toi "
        "ton tous tout toute toutes très tu un une va vers vos votre vous y à ça étaient était étant été être "
    ).split()
)
