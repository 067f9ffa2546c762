"""Danish words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "ad af alle alt anden at blev blive bliver da de dem den denne der deres det dette dig din dine disse dog du "
        "efter eller en end er et for fra ham han hans har havde have hende hendes her hos hun hvad hvem hver hvilken "
        "hvis hvor hvordan hvorfor i ikke ind ingen jeg jer jo kan kunne man mange med meget mellem men mig min mine "
        "mit mod må ned noget nogle nok nu når og også om op os over på selv sig sin sine sit skal skulle som så "
        "sådan til ud uden under var ved vi vil ville vor være været "
    ).split()
)
