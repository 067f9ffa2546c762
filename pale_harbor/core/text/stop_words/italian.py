"""Italian words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "a abbiamo ad agli ai al alla alle allo altra altre altri altro anche ancora avere aveva avevano c che chi ci "
        "cioè come con contro cui da dagli dai dal dalla dalle dallo degli dei del della delle dello dentro di dove "
        "durante e ed era erano essa esse essere essi fa fino fra fu furono già gli ha hai hanno ho i il in io l la "
        "le lei lo loro lui ma me mentre mi mia mie miei mio molto ne negli nei nel nella nelle nello no noi non "
        "nostra nostro né o ogni oppure ora per perché però più poi prima qua quale quali quando quanto quella quelle "
        "quelli quello questa queste questi questo qui se sei sempre senza si sia siamo siete sono sopra sotto stata "
        "state stati stato su sua sue sugli sui sul sulla sulle suo suoi tra tu tua tue tuo tuoi tutta tutte tutti "
        "tutto un una uno vi voi è "
    ).split()
)
