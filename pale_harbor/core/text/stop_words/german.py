"""German words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "aber alle allem allen aller alles als also am an ander andere anderem anderen anderer anderes auch auf aus "
        "bei bin bis bist da damit dann das dass dasselbe dazu daß dein deine dem den denn der derer des dessen dich "
        "die dies diese diesem diesen dieser dieses dir doch dort du durch ein eine einem einen einer eines einige er "
        "es etwas euch euer eure für gegen hab habe haben hat hatte hatten hier hin hinter ich ihm ihn ihnen ihr ihre "
        "ihrem ihren ihrer ihres im in indem ins ist jede jedem jeden jeder jedes jene jener jetzt kann kein keine "
        "keinem keinen keiner können könnte man manche mein meine mich mir mit muss musste nach nicht nichts noch nun "
        "nur ob oder ohne sehr sein seine seinem seinen seiner seines selbst sich sie sind so solche soll sollte "
        "sondern sonst um und uns unser unsere unter viel vom von vor war waren warst was weg weil weiter welche "
        "welchem welchen welcher wenn werde werden wie wieder will wir wird wirst wo wollen während würde würden zu "
        "zum zur zwar zwischen über "
    ).split()
)
