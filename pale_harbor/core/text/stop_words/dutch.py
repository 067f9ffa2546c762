"""Dutch words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "aan af al alle alles als altijd ander andere ben bij daar dan dat de den der deze die dit doch doen door dus "
        "een eens en er ge geen geweest haar had hadden heb hebben heeft hem het hier hij hoe hun iemand iets ik in "
        "is ja je kan kon kunnen maar me meer men met mij mijn moet na naar niet niets nog nu of om omdat onder ons "
        "onze ook op over reeds te tegen toch toen tot u uit uw van veel voor want waren was wat we wel werd werden "
        "wezen wie wij wil worden wordt zal ze zei zelf zich zij zijn zo zonder zou zouden "
    ).split()
)
