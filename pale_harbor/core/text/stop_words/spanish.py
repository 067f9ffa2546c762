"""Spanish words that say little on their own."""

from typing import Final

STOP_WORDS: Final = frozenset(
    (
        "a al algo alguna algunas alguno algunos ambos ante antes aquel aquella aquello aquellos aquí así aunque aún "
        "bajo cada casi como con contra cual cuales cuando cuanto de del desde donde dos durante e el ella ellas ello "
        "ellos en entre era eran eras eres es esa esas ese eso esos esta estaba estaban estado estar estas este esto "
        "estos está están fue fueron ha haber había habían hace hacia han hasta hay he la las le les lo los me mi "
        "mientras mis mucho muchos muy más mí nada ni no nos nosotros nuestra nuestro nuestros o os otra otras otro "
        "otros para pero poco por porque pues que quien quienes qué se sea ser si sido siempre sin sino sobre son su "
        "sus sí también tampoco tan tanto te tiene tienen toda todas todo todos tras tu tus tú un una unas uno unos y "
        "ya yo él "
    ).split()
)
