"""Finnish words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "ehkä ei eikä eivät emme en et ette että he heidän heidät heille heitä hyvin hän häneen hänelle hänellä hänen "
        "hänet häntä ja jo joita joka jonka jos jossa jota jotka jotta kaikki kanssa kuin kuinka kuka kun kyllä me "
        "meidän meitä mihin miksi mikä minkä minua minulla minun minut minä missä mitä mitään mukaan mutta muu muut "
        "myös ne niiden niin niitä noin nuo nyt näiden näin näitä nämä ole olen olet oli olimme olin olisi olit "
        "olivat olla olleet ollut on onko ovat se sekä sen siellä siihen siinä siis siitä sille sillä sinun sinut "
        "sinä sitten sitä tai te teidän teitä tuo tuon tuota tähän tällä tämä tämän tässä tästä tätä vaan vai vaikka "
        "vain vielä voi yli "
    ).split()
)
