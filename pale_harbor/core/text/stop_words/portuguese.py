"""Portuguese words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "a ao aos aquela aquelas aquele aqueles aquilo as até cada com como da das de dela delas dele deles depois do "
        "dos e ela elas ele eles em entre era eram essa essas esse esses esta estas estava este estes está estão eu "
        "foi foram há isso isto já lhe lhes mais mas me mesmo meu meus minha minhas muito muitos na nas nem no nos "
        "nossa nossas nosso nossos num numa não nós o os ou para pela pelas pelo pelos por porque qual quando que "
        "quem se seja sem ser seu seus sob sobre sua suas são só também te tem teu teus tinha toda todas todo todos "
        "tu tua tuas tudo tão têm um uma umas uns você vocês à às é "
    ).split()
)
