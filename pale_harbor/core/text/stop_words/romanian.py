"""Romanian words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "a acea aceasta această aceea acei aceia acel acela acele acelea acest acesta aceste acestea aceşti aceştia "
        "acolo acum ai aici al ale alt alta alte alţi am ar are asta astfel asupra au avea avem aveţi azi aş aşa c ca "
        "care ce cea ceea cei cel cele ci cine cu cum când cât câte câţi că cărei căror cărui către d da dacă dar de "
        "deci deja deoarece despre din dintr dintre doar după ea ei el ele era erau este eu face fi fie fiecare fii "
        "fost fără i iar la le li lor lui m mai mea mei mele meu mi mult multe mulţi mă n ne nici nimic nişte noastră "
        "noi nostru nou noştri nu o ori orice pe pentru peste prin până s sa sale se spre sub sunt suntem sînt să săi "
        "său ta tale te toate toată tot totuşi toţi tu tăi tău un una unde unei unele uneori unii unor unui unul va "
        "veţi voi vom vor vostru vă îi îl îmi în înainte încă într între îşi îţi şi ţi "
    ).split()
)
