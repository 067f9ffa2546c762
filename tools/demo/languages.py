"""What the demo's later records say in German, French, Spanish and Norwegian: kinds of things and remarks on them."""

from facts import Type


def _types(rows: list[tuple[str, str, tuple[str, ...], tuple[str, ...], str, str]]) -> tuple[Type, ...]:
    return tuple(
        Type(noun, kind, subjects, materials, (one, other)) for noun, kind, subjects, materials, one, other in rows
    )


GERMAN = _types([
    ("Heringsfass", "object", ("herring", "barrel", "cooper"), ("Eiche", "Hasel"), "Ein Fass für gesalzene Heringe, mit Reifen aus Hasel und dem Brandzeichen des Prüfers.", "Die Fische lagen mit dem Bauch nach oben, und zwischen jeder Lage war Salz."),
    ("Leuchtturmlampe", "object", ("lighthouse", "lamp"), ("Kupfer", "Glas"), "Eine Lampe aus einem Leuchtturm, für Rüböl gebaut und später auf Petroleum umgestellt.", "Der Wärter füllte sie alle vier Stunden und schrieb den Verbrauch in ein Heft."),
    ("Brief eines Leuchtturmwärters", "letter", ("lighthouse", "keeper", "life", "letter home"), ("Papier", "Tinte"), "Der Wärter bittet um Bücher, ganz gleich welche, nur nicht wieder Predigten.", "Er beschreibt die Stille im Turm, wenn der Wind aufhört."),
    ("Netznadel", "object", ("net", "tool", "fishing"), ("Walknochen",), "Eine Nadel zum Knüpfen und Flicken von Netzen, aus Walknochen geschnitzt.", "An ihrer Zunge hängt noch ein Rest geteertes Garn."),
    ("Schiffsglocke", "object", ("bell", "ship"), ("Bronze",), "Eine Glocke, die an Bord die halben Stunden schlug und bei Nebel geläutet wurde.", "Der Name des Schiffes ist zweimal eingegossen, einmal falsch."),
    ("Seekarte der Flussmündung", "chart", ("chart", "navigation"), ("Papier", "Tinte"), "Eine gezeichnete Karte der Fahrwasser, die schon im nächsten Jahr nicht mehr stimmte.", "Die Tiefen stehen in Fuß bei Niedrigwasser, die Bemerkungen in schlechter Laune."),
    ("Fischkorb", "object", ("fishing", "basket", "market"), ("Weide",), "Ein runder Korb aus gespaltener Weide, aus dem das Wasser ablaufen konnte.", "Er fasste einen Zentner Sprotten, wenn niemand hinsah."),
    ("Lotsenpatent", "letter", ("pilot", "licence"), ("Pergament",), "Ein Patent, das erlaubt, Schiffe über die Barre zu führen, mit einer Beschreibung des Inhabers.", "Es steckte in einer Blechbüchse und war jedem Kapitän vorzuzeigen."),
    ("Fotografie der Werft", "photograph", ("boat building", "launch"), ("Glasnegativ",), "Ein Rumpf auf der Helling, davor die Zimmerleute mit ihren Beilen, in der ersten Reihe ein Hund.", "Auf der Rückseite stehen die Namen, der des Hundes zuerst."),
    ("Schiffsmodell", "model", ("model", "ship", "church"), ("Kiefer", "Hanf"), "Ein Modell, das in der Kirche hing, gestiftet von einer Mannschaft nach einer schlimmen Nacht.", "Es trägt mehr Kanonen, als je ein Schiff dieser Küste hatte."),
    ("Logbuchseite", "logbook page", ("log book", "voyage"), ("Papier", "Tinte"), "Eine Seite aus einem Logbuch: Wind, Kurs, ein gerissenes Segel, ein verlorener Eimer.", "Der Steuermann schreibt aus, was der Kapitän mit einem Strich abtut."),
    ("Wetterglas", "instrument", ("weather", "barometer"), ("Messing", "Glas"), "Ein Barometer aus einer Fischerstube, an dem jeden Morgen dreimal geklopft wurde.", "Das Wort für Sturm ist vom Klopfen fast verschwunden."),
    ("Rettungsweste aus Kork", "object", ("lifeboat", "rescue", "clothes"), ("Kork", "Segeltuch"), "Eine Weste aus Korkplatten, wie sie die Männer im Rettungsboot trugen.", "Auf der Innenseite stehen die Namen von drei Trägern."),
    ("Seilerrad", "object", ("rope", "tool"), ("Buche", "Eisen"), "Ein Rad mit vier Haken, das am oberen Ende der Seilerbahn die Litzen drehte.", "Die Kurbel ist blank von vielen Händen."),
])  # fmt: skip
FRENCH = _types([
    ("Baril à harengs", "object", ("herring", "barrel", "cooper"), ("chêne", "noisetier"), "Un baril pour le hareng salé, cerclé de noisetier et marqué au fer par l'inspecteur.", "Les poissons y étaient rangés le ventre en haut, une couche de sel entre chaque rang."),
    ("Lampe de phare", "object", ("lighthouse", "lamp"), ("cuivre", "verre"), "Une lampe de phare, faite pour l'huile de colza puis modifiée pour le pétrole.", "Le gardien la remplissait toutes les quatre heures et notait ce qu'elle avait bu."),
    ("Lettre d'un gardien de phare", "letter", ("lighthouse", "keeper", "life", "letter home"), ("papier", "encre"), "Le gardien demande des livres, n'importe lesquels, pourvu que ce ne soient plus des sermons.", "Il décrit le silence de la tour quand le vent tombe."),
    ("Filet de pêche", "object", ("net", "fishing"), ("chanvre", "liège"), "Un filet de pêche tanné à l'écorce de chêne, avec ses lièges d'origine.", "Les mailles déchirées ont été refaites par une autre main, plus serrée."),
    ("Cloche de bord", "object", ("bell", "ship"), ("bronze",), "Une cloche qui piquait les demi-heures du quart et sonnait par temps de brume.", "Le nom du navire y est fondu deux fois, dont une avec une faute."),
    ("Carte de l'estuaire", "chart", ("chart", "navigation"), ("papier", "encre"), "Une carte manuscrite des chenaux, déjà fausse l'année suivante.", "Les fonds y sont en pieds et les remarques de mauvaise humeur."),
    ("Panier à poisson", "object", ("fishing", "basket", "market"), ("osier",), "Un panier rond en osier fendu, d'où l'eau pouvait s'écouler.", "Il tenait un quintal de sprats quand personne ne regardait."),
    ("Boîte de sardines", "object", ("cannery", "sardine", "food"), ("fer-blanc",), "Une boîte de sardines encore pleine, que personne n'a voulu ouvrir.", "L'étiquette montre une pêcheuse qui ne ressemble à personne."),
    ("Coiffe de pêcheuse", "object", ("woman", "clothes"), ("coton", "dentelle"), "Une coiffe de dentelle, portée le dimanche par celles qui triaient le poisson.", "Elle est empesée au sucre, ce que les mouches n'ont pas oublié."),
    ("Photographie de l'équipage", "photograph", ("crew", "portrait"), ("négatif sur verre",), "Neuf hommes et un mousse devant la timonerie, en habit du dimanche, se retiennent de rire.", "Au dos, les noms ; l'un d'eux est rayé."),
    ("Ex-voto de marin", "model", ("model", "ship", "church"), ("chêne", "chanvre"), "Un navire suspendu dans l'église par un équipage revenu d'une mauvaise nuit.", "Il porte plus de canons qu'aucun bateau de cette côte."),
    ("Page de journal de bord", "logbook page", ("log book", "voyage"), ("papier", "encre"), "Une page de journal : le vent, la route, une voile déchirée, un seau perdu.", "Le second écrit en entier ce que le capitaine a remplacé par un trait."),
    ("Octant de marine", "instrument", ("octant", "navigation"), ("ébène", "os", "laiton"), "Un octant pour prendre la hauteur du soleil, gradué à la main sur os.", "Un ancien propriétaire a gravé ses midis dans le couvercle de la boîte."),
    ("Casier à homards", "object", ("fishing", "lobster"), ("noisetier", "chanvre"), "Un casier à deux entrées, lesté d'une pierre choisie pour sa forme.", "Le fond a été refait deux fois, les arceaux sont d'origine."),
])  # fmt: skip
SPANISH = _types([
    ("Barril de arenques", "object", ("herring", "barrel", "cooper"), ("roble", "avellano"), "Un barril para arenque salado, con aros de avellano y la marca del inspector.", "Los peces iban con el vientre hacia arriba y una capa de sal entre cada fila."),
    ("Lámpara de faro", "object", ("lighthouse", "lamp"), ("cobre", "vidrio"), "Una lámpara de faro, hecha para aceite de colza y adaptada luego al petróleo.", "El farero la llenaba cada cuatro horas y apuntaba lo que gastaba."),
    ("Carta de un farero", "letter", ("lighthouse", "keeper", "life", "letter home"), ("papel", "tinta"), "El farero pide libros, los que sean, con tal de que no sean más sermones.", "Describe el silencio de la torre cuando cae el viento."),
    ("Red de cerco", "object", ("net", "fishing"), ("algodón", "corcho"), "Una red de cerco teñida con corteza, con los corchos que tuvo al principio.", "Las mallas rotas las rehízo otra mano, más apretada."),
    ("Campana de barco", "object", ("bell", "ship"), ("bronce",), "Una campana que daba las medias horas de la guardia y sonaba con niebla.", "El nombre del barco está fundido dos veces, una de ellas mal."),
    ("Carta náutica de la ría", "chart", ("chart", "navigation"), ("papel", "tinta"), "Una carta a mano de los canales, que al año siguiente ya no valía.", "Las sondas están en pies y las notas, de mal humor."),
    ("Cesta de pescado", "object", ("fishing", "basket", "market"), ("mimbre",), "Una cesta redonda de mimbre, de la que escurría el agua.", "Cabía un quintal de sardinas cuando nadie miraba."),
    ("Lata de conservas", "object", ("cannery", "sardine", "food"), ("hojalata",), "Una lata de sardinas en aceite que nadie ha querido abrir.", "En la etiqueta hay una pescadora que no se parece a nadie."),
    ("Ficha de la conservera", "object", ("cannery", "money", "woman"), ("latón",), "Una ficha que se daba a cada mujer por una bandeja llena y que el sábado valía dinero.", "También se podía gastar en la tienda de la fábrica, por algo menos."),
    ("Fotografía de la tripulación", "photograph", ("crew", "portrait"), ("negativo de vidrio",), "Nueve hombres y un chico ante el puente, con ropa de domingo, aguantan la risa.", "Detrás están los nombres, y uno está tachado."),
    ("Exvoto marinero", "model", ("model", "ship", "church"), ("roble", "cáñamo"), "Un barco que colgó en la iglesia una tripulación que volvió de una mala noche.", "Lleva más cañones que ningún barco de esta costa."),
    ("Hoja de diario de a bordo", "logbook page", ("log book", "voyage"), ("papel", "tinta"), "Una hoja de diario: viento, rumbo, una vela rota, un cubo perdido.", "El piloto escribe entero lo que el capitán dejó en una raya."),
    ("Arpón de ballenero", "object", ("whaling", "harpoon"), ("hierro", "fresno"), "Un arpón de mano con dos aletas, marcado con el número de la lancha.", "La punta se afiló tantas veces que ha perdido un tercio."),
    ("Aguja de remendar", "object", ("net", "tool", "fishing"), ("madera de boj",), "Una aguja de boj para hacer y remendar redes.", "En la lengüeta queda un resto de hilo alquitranado."),
])  # fmt: skip
NORWEGIAN = _types([
    ("Sildetønne", "object", ("herring", "barrel", "cooper"), ("eik", "hassel"), "En tønne til saltet sild, med bånd av hassel og vrakerens brennmerke.", "Silda lå med buken opp, og det var salt mellom hvert lag."),
    ("Fyrlampe", "object", ("lighthouse", "lamp"), ("kobber", "glass"), "En lampe fra et fyr, laget for rovolje og senere bygd om til parafin.", "Fyrvokteren fylte den hver fjerde time og skrev opp hva den brukte."),
    ("Brev fra en fyrvokter", "letter", ("lighthouse", "keeper", "life", "letter home"), ("papir", "blekk"), "Fyrvokteren ber om bøker, det er det samme hvilke, bare ikke flere prekener.", "Han forteller om stillheten i tårnet når vinden løyer."),
    ("Garnnål", "object", ("net", "tool", "fishing"), ("hvalbein",), "En nål til å binde og bøte garn med, spikket av hvalbein.", "Det sitter ennå litt tjæret tråd på tungen."),
    ("Skipsklokke", "object", ("bell", "ship"), ("bronse",), "En klokke som slo halvtimene på vakten og ble ringt med i tåke.", "Navnet på skipet er støpt to ganger, den ene gangen feil."),
    ("Kart over fiskemedene", "chart", ("chart", "fishing"), ("papir", "blekk"), "Et håndtegnet kart over fiskemed, slik én familie hadde dem.", "Halvparten av merkene på land er borte, og fisken med dem."),
    ("Fiskekurv", "object", ("fishing", "basket", "market"), ("pil",), "En rund kurv av kløyvd pil, som vannet kunne renne ut av.", "Den tok en sentner brisling når ingen så på."),
    ("Modell av en fiskebåt", "model", ("model", "boat", "fishing"), ("furu", "bomull"), "En modell av en åpen fiskebåt i målestokk én til tolv, laget av en som hadde rodd den.", "Alt om bord ligger der han la det sist."),
    ("Islandsk genser", "object", ("knitting", "clothes"), ("ull",), "En genser strikket rundt, med et mønster som gikk i arv i én gate.", "Bokstavene over linningen er strikket inn så en mann kunne kjennes igjen, hva som enn hendte."),
    ("Bilde av mannskapet", "photograph", ("crew", "portrait"), ("glassplate",), "Ni mann og en gutt foran styrhuset, i finklær, prøver å ikke le.", "Bak på bildet står navnene, og ett av dem er strøket over."),
    ("Kirkeskip", "model", ("model", "ship", "church"), ("eik", "hamp"), "Et skip som hang i kirken, gitt av et mannskap som hadde kommet gjennom en vond natt.", "Det har flere kanoner enn noe skip på denne kysten noen gang hadde."),
    ("Side av en skipsdagbok", "logbook page", ("log book", "voyage"), ("papir", "blekk"), "En side av en skipsdagbok: vind, kurs, et revnet seil, en mistet bøtte.", "Styrmannen skriver helt ut det kapteinen har satt en strek for."),
    ("Båtkompass", "instrument", ("compass", "navigation"), ("messing", "glass"), "Et lite væskekompass i kasse, med lampe ved siden av, til en åpen båt.", "Skiven flyter fremdeles, enda spriten er blitt brun."),
    ("Tørrfiskvekt", "object", ("fishing", "market", "money"), ("jern",), "En vekt til tørrfisk, med to sett lodd: ett til å kjøpe med og ett til å selge med.", "Forskjellen mellom dem er tre prosent."),
])  # fmt: skip

LANGUAGES = {
    "de": (GERMAN, ("Grauhaven",)),
    "fr": (FRENCH, ("Port-Saint-Alban",)),
    "es": (SPANISH, ("Santa Briga",)),
    "no": (NORWEGIAN, ("Veldhavn", "Ternholm")),
}
REMARKS = {
    "de": ("{person} soll damit in der Nacht gearbeitet haben, als die {ship} strandete.", "Im Kirchenbuch steht der Name als {variant}.", "Aus dem Nachlass der Familie.", "Bei der Flut von 1953 stand es drei Tage im Wasser.", "Ein Kind hat auf die Rückseite gemalt.", "Es fuhr auf der {ship} und kam zurück, was nicht für alle an Bord gilt.", "Angekauft auf einem Markt, zusammen mit einem Stiefel.", "Das Jahr ist mit dem Messer eingeschnitten."),
    "fr": ("{person} s'en serait servi la nuit où la {ship} fit côte.", "Le registre de la paroisse écrit le nom {variant}.", "Don de la famille.", "L'objet est resté trois jours sous l'eau lors de l'inondation de 1953.", "Un enfant a dessiné au dos.", "Il navigua sur la {ship} et en revint, ce que tous à bord ne firent pas.", "Acheté au marché avec une botte.", "L'année y est gravée au couteau."),
    "es": ("{person} lo habría usado la noche en que encalló la {ship}.", "En el libro de la parroquia el nombre figura como {variant}.", "Donación de la familia.", "Estuvo tres días bajo el agua en la inundación de 1953.", "Un niño ha dibujado por detrás.", "Navegó en la {ship} y volvió, cosa que no hicieron todos.", "Comprado en el mercado junto con una bota.", "El año está grabado a cuchillo."),
    "no": ("{person} skal ha brukt den natten da {ship} strandet.", "I kirkeboken står navnet som {variant}.", "Gave fra familien.", "Den sto tre dager under vann i stormfloden i 1953.", "Et barn har tegnet på baksiden.", "Den var med om bord i {ship} og kom hjem, og det gjorde ikke alle.", "Kjøpt på et marked sammen med en støvel.", "Årstallet er skåret inn med kniv."),
}  # fmt: skip
OF = {
    "de": "{noun} von {person}",
    "fr": "{noun} de {person}",
    "es": "{noun} de {person}",
    "no": "{noun} etter {person}",
}
FROM = {"de": "{noun} der {ship}", "fr": "{noun} de la {ship}", "es": "{noun} de la {ship}", "no": "{noun} fra {ship}"}
AT = {"de": "{noun}, {place}", "fr": "{noun}, {place}", "es": "{noun}, {place}", "no": "{noun}, {place}"}
