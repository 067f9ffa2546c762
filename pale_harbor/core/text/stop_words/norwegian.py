"""Norwegian words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "alle alt andre at av bare begge ble bli blir blitt både da de deg dei dem den denne der deres det dette din "
        "dine disse ditt du eller en enn er et ett etter for fordi fra før ha hadde han hans har hennes her hun hva "
        "hvem hver hvilken hvis hvor hvordan hvorfor i ikke ingen inn ja jeg kan kom kun kunne man mange med meg "
        "meget mellom men min mine mitt mot mye må nei noe noen nok nå når og også om opp oss over på seg selv si sin "
        "sine sitt skal skulle slik som så sånn til ut uten var ved vi vil ville vår våre være vært "
    ).split()
)
