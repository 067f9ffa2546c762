"""The facts that the demo's later records are written from: people, places, ships, kinds of things.

Whatever a record says is drawn from here, and so are its subjects, by which judged queries are
graded. Everything is made up.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Person:
    """name: as catalogued; others: as clerks, neighbours and the person wrote it."""

    name: str
    others: tuple[str, ...]
    trade: str


@dataclass(frozen=True)
class Type:
    """A kind of thing. leads: what it is, a sentence each; subjects: what it is about."""

    noun: str
    kind: str
    subjects: tuple[str, ...]
    materials: tuple[str, ...]
    leads: tuple[str, ...]
    years: tuple[int, int] = (1780, 1950)


# fmt: off
PLACES = {

    "Saltmere": ("Averne Coast / Saltmere", "Averne Coast / Saltmere / Osmer's Quay", "Averne Coast / Saltmere / Rope Street"),
    "Brannock": ("Averne Coast / Brannock", "Averne Coast / Brannock / The Green"),
    "Port Averne": ("Averne Coast / Port Averne", "Averne Coast / Port Averne / Naval Yard"),
    "Gull Sound": ("Averne Coast / Gull Sound",),
    "Netherstrand": ("Averne Coast / Netherstrand", "Averne Coast / Netherstrand / The Pier"),
    "Hallow Bank": ("Averne Coast / Hallow Bank",), "Kestrel Ness": ("Averne Coast / Kestrel Ness",),
    "Marrow Point": ("Averne Coast / Marrow Point",), "Tidewick": ("Averne Coast / Tidewick",),
    "Cold Haven": ("Northern Grounds / Cold Haven",), "Skarrow": ("Northern Grounds / Skarrow",),
    "Ternholm": ("Over the Water / Norway / Ternholm",), "Veldhavn": ("Over the Water / Norway / Veldhavn",),
    "Grauhaven": ("Over the Water / Germany / Grauhaven", "Over the Water / Germany / Grauhaven / Alter Kai"),
    "Port-Saint-Alban": ("Over the Water / France / Port-Saint-Alban",),
    "Santa Briga": ("Over the Water / Spain / Santa Briga", "Over the Water / Spain / Santa Briga / El Muelle"),
    "Wend Estuary": ("Averne Coast / Wend Estuary", "Averne Coast / Wend Estuary / Ferry Hard"),
    "Lanner Rock": ("Averne Coast / Lanner Rock",), "Eelmouth": ("Averne Coast / Wend Estuary / Eelmouth",),
    "The Swash": ("Averne Coast / The Swash",),
}

PEOPLE = (
    Person("Halvard Brekke", ("Halvor Brekke", "H. Bräkke", "Halward Breck"), "net maker"),
    Person("Märta Söderqvist", ("Marta Soderquist", "Märtha Söderkvist"), "sailmaker"),
    Person("Jean-Yves Quémener", ("Jean Yves Quemener", "J. Y. Kemener"), "skipper"),
    Person("Anselm Wöhlke", ("Anselm Woehlke", "A. Wolke"), "cooper"),
    Person("Begoña Zuloarte", ("Begona Zuloarte", "Begoña Ybarrola"), "cannery forewoman"),
    Person("Tobiah Pennock", ("Tobias Pennock", "Toby Pinnock"), "blacksmith"),
    Person("Agnes Mallinder", ("Agnes Malinder", "Ann Mallender"), "fish seller"),
    Person("Gideon Frostick", ("Gidion Frostick", "G. Frostwick"), "pilot"),
    Person("Ruth Ottaway", ("Ruth Otway", "Mrs Ottoway"), "keeper's wife"),
    Person("Cuthbert Saltonby", ("Cuthbert Saltenby", "C. Saltonbie"), "harbour clerk"),
    Person("Odile Le Guirrec", ("Odile Leguirrec", "Odile Le Guirec"), "lace maker"),
    Person("Bjørn Tveitane", ("Bjorn Tveitane", "Bjørn Tvedtane"), "boat builder"),
    Person("Klara Ahlfeldt", ("Clara Ahlfeld", "Klara Alfeldt"), "photographer"),
    Person("Íñigo Zabaleta", ("Inigo Zavaleta", "Yñigo Zabaleta"), "instrument maker"),
    Person("Jabez Thornholme", ("Jabez Thornham", "Jabes Thornholm"), "ropemaker"),
    Person("Susannah Cudworth", ("Susanna Cudworth", "Susan Cudsworth"), "schoolmistress"),
    Person("Enoch Battersea Lowe", ("Enoch Lowe", "E. B. Low"), "salt master"),
    Person("Dagny Årseth", ("Dagny Aarseth", "Dagni Arset"), "midwife"),
    Person("Hinrich Jürgensen", ("Heinrich Jurgensen", "Hinrik Jürgens"), "captain"),
    Person("Marguerite Tanguy", ("Margaret Tangy", "Marguérite Tanguy"), "fish seller"),
    Person("Lázaro Echeandía", ("Lazaro Echeandia", "Lázaro Etxeandia"), "whaler"),
    Person("Phoebe Marchbank", ("Phebe Marchbanks", "Phoebe Marsh-Bank"), "stewardess"),
    Person("Silas Gathercole", ("Silas Gathercoal", "S. Gathercold"), "lifeboatman"),
    Person("Obadiah Wrenfield", ("Obadia Wrenfield", "Obed Renfield"), "customs officer"),
)

SHIPS = (
    ("smack", "Gannet's Pride"), ("drifter", "Morning Psalm"), ("lugger", "Bold Ambrose"), ("barque", "Corisande"),
    ("ketch", "Widow's Portion"), ("schooner", "Lady Oriel"), ("brig", "Tamsin Grey"), ("trawler", "Ebb and Flow"),
    ("collier", "Thomas Wakeling"), ("pilot cutter", "Vesper"), ("paddle steamer", "Duchess of Averne"),
    ("lifeboat", "Elizabeth Hope"), ("lightship", "Constancy"), ("whaler", "Northern Thrift"), ("packet", "Swift Merlin"),
    ("snow", "Peregrine"), ("coble", "Sarah and Ruth"), ("sloop", "Nonpareil"), ("galleass", "Drei Schwestern"),
    ("chasse-marée", "Belle Jacquette"), ("trainera", "Nuestra Luz"), ("jekt", "Haabet"),
    ("cog ferry", "Old Patience"), ("dredger", "Samson"),
)

TYPES = (
    Type("fish basket", "object", ("fishing", "basket", "market"), ("willow",), (
        "A round basket for landing fish, woven of split willow so that the water could drain.",
        "The basket held a hundredweight of sprats when it was heaped and a little less when the buyer looked.")),
    Type("net float", "object", ("fishing", "net"), ("cork", "glass"), (
        "A float that kept the upper edge of a drift net at the surface, one of some three hundred on a fleet.",
        "The float is tarred and branded, for nets were cut loose in bad weather and came home with whoever found them.")),
    Type("trawl beam head", "object", ("fishing", "trawl"), ("wrought iron",), (
        "One of the two iron hoops that held the beam of a trawl off the ground and let it slide like a sledge.",
        "The shoe is worn thin on one side, since the skipper always towed with the tide on the same quarter.")),
    Type("mackerel line", "object", ("fishing", "line"), ("cotton", "lead"), (
        "A hand line for mackerel with six hooks, each dressed with a feather from the same goose.",
        "The line is wound on a frame that somebody notched to count his catch.")),
    Type("eel spear", "object", ("fishing", "eel"), ("iron", "ash"), (
        "A spear with five flat, barbed tines for pinning eels in the mud of the estuary.",
        "It was used from a punt in winter, when eels lie still, and by feel alone.")),
    Type("shrimp net", "object", ("fishing", "net", "shrimp", "woman"), ("cotton", "ash"), (
        "A push net with a board along its foot, walked before one in the shallows for shrimps.",
        "Women and children pushed such nets at low water, up to the waist and mostly in the dark.")),
    Type("lobster creel", "object", ("fishing", "lobster"), ("hazel", "hemp"), (
        "A creel for lobsters with two eyes of twine, weighted with a stone that was chosen for its shape.",
        "The bottom boards were renewed twice; the bows of hazel are those it was made with.")),
    Type("cooper's croze", "object", ("cooper", "barrel", "tool"), ("beech", "steel"), (
        "A tool that cuts the groove inside the staves, into which the head of a barrel is fitted.",
        "Its fence is worn to the curve of herring barrels and fits no other cask.")),
    Type("herring barrel", "object", ("cooper", "barrel", "herring"), ("oak", "hazel"), (
        "A barrel for salted herring, its hoops of hazel and its lid branded by the inspector.",
        "It held seven hundred fish, packed belly upward in rounds, with salt between the rounds.")),
    Type("herring gutter's knife", "object", ("herring", "gutting", "woman", "tool"), ("steel", "bone"), (
        "A short knife with which a herring was gutted in one turn of the wrist, forty in a minute.",
        "The handle is bound with rag, as the women bound their fingers, against the salt.")),
    Type("rope jack", "object", ("rope", "tool"), ("beech", "iron"), (
        "A geared frame with four hooks that twisted the strands of a rope at the upper end of the walk.",
        "The crank is polished by hands; the teeth of the small wheels were cut anew at least once.")),
    Type("fender of rope", "object", ("rope", "knot"), ("hemp",), (
        "A fender worked of old rope to hang between a boat and a quay.",
        "It shows the coach-whipping and the wall knots that a rigger's boy had to know by heart.")),
    Type("sailmaker's bench", "object", ("sail", "tool"), ("pine", "leather"), (
        "A low bench with holes for fids at one end, on which a sailmaker sat with the cloth across his knees.",
        "The leather of the seat has taken the shape of one man, and nobody else was ever comfortable on it.")),
    Type("tan copper", "object", ("sail", "net", "tanning"), ("copper",), (
        "A boiler in which sails and nets were steeped in oak bark to keep them from rotting.",
        "The whole street smelt of it on Saturdays, and washing was hung out on other days.")),
    Type("caulking iron", "object", ("boat building", "tool"), ("steel",), (
        "A broad chisel for driving oakum into the seams of a hull.",
        "Its edge is blunt on purpose: it should press the oakum home and cut nothing.")),
    Type("boat builder's mould", "object", ("boat building", "boat"), ("elm",), (
        "A thin board cut to the shape of one frame of a boat, with marks for every other frame along its edge.",
        "From this one mould a builder who knew how to move it could set out a whole boat.")),
    Type("ship's lantern", "object", ("lamp", "ship"), ("copper", "glass"), (
        "A lantern with a ribbed lens that threw its light all round the horizon.",
        "It burned colza oil, and later paraffin, for which the burner was changed by a tinsmith ashore.")),
    Type("lighthouse clockwork", "instrument", ("lighthouse", "keeper"), ("brass", "iron"), (
        "The clockwork that turned a lens once in a minute, driven by a weight that fell down the tower.",
        "A keeper wound it every half hour of the night, and a bell rang if he was late."), (1820, 1930)),
    Type("keeper's tea caddy", "object", ("lighthouse", "keeper", "life"), ("tin",), (
        "A caddy that stood in the kitchen of a lighthouse, with a lock, for tea was counted like oil.",
        "On the inside of the lid three keepers marked the days until their relief."), (1840, 1960)),
    Type("oil jug for the lamp room", "object", ("lighthouse", "keeper", "lamp"), ("copper",), (
        "A jug with a long spout for filling the reservoirs of a lighthouse lamp without spilling on the glass.",
        "It carries the stamp of the lighthouse service and a dent that was reported in the log."), (1830, 1930)),
    Type("lifeboat oar", "object", ("lifeboat", "rescue"), ("ash",), (
        "An oar of a pulling lifeboat, eighteen feet long, painted blue for the starboard side.",
        "It was broken on service and spliced by the crew, who would not have it thrown away."), (1830, 1930)),
    Type("lifeboat collecting box", "object", ("lifeboat", "money"), ("tin",), (
        "A collecting box in the shape of a lifeboat, which dipped its bow when a penny fell in.",
        "It stood on the bar of an inn and was emptied by the vicar.")),
    Type("rescue vellum", "letter", ("lifeboat", "rescue", "award"), ("vellum", "ink"), (
        "A vellum with which a lifeboat society thanked a man for saving life from a wreck.",
        "The text names those who were saved and, as was the custom, not those who were not."), (1840, 1950)),
    Type("pilot's licence", "letter", ("pilot", "licence"), ("parchment", "brass"), (
        "A licence to pilot ships over the bar, with a description of the holder: height, hair, a scar.",
        "It had to be carried in a brass tin and shown to any master who asked."), (1780, 1920)),
    Type("tide board", "instrument", ("tide", "pilot"), ("oak",), (
        "A board with movable figures that told the depth over the bar to ships in the offing.",
        "The pilots' boy changed the figures every quarter of an hour, by day and night.")),
    Type("sounding pole", "instrument", ("depth", "pilot", "sounding"), ("ash", "lead"), (
        "A pole marked in feet for finding the depth of water in the channels of the estuary.",
        "Its foot is hollow and was filled with tallow, which brought up a little of the ground.")),
    Type("pocket barometer", "instrument", ("weather", "barometer"), ("brass", "glass"), (
        "A small aneroid barometer in a case like a watch's.",
        "The scale was made for heights as well, but its owner went no higher than the church tower."), (1850, 1950)),
    Type("rain gauge", "instrument", ("weather", "rain"), ("copper", "glass"), (
        "A copper funnel and a measure, read each morning at nine for the weather office.",
        "The readings were written down without a gap for thirty-one years.")),
    Type("wind vane", "instrument", ("weather", "wind"), ("copper", "gilding"), (
        "A vane from the roof of the harbour office, in the shape of a herring.",
        "It always stuck in an easterly, and every skipper allowed for that.")),
    Type("boat compass", "instrument", ("compass", "navigation"), ("brass", "glass", "spirit"), (
        "A small liquid compass in a box with a lamp beside it, for an open boat.",
        "Its card floats still, although the spirit has gone brown.")),
    Type("octant", "instrument", ("octant", "navigation"), ("ebony", "bone", "brass"), (
        "An octant for taking the height of the sun, its scale cut in bone by hand.",
        "A previous owner has scratched his noon positions into the lid of the case."), (1750, 1860)),
    Type("sextant", "instrument", ("sextant", "navigation"), ("brass", "glass", "mahogany"), (
        "A sextant with seven shades and a telescope, kept in a stepped box.",
        "The mirror was silvered anew with tinfoil by somebody at sea, and has served ever since.")),
    Type("deck watch", "instrument", ("clock", "navigation"), ("silver", "steel"), (
        "A large watch that carried the time from the chronometer below to whoever took the sun on deck.",
        "It gained four seconds a day, and this was as good as none, because it always did."), (1800, 1950)),
    Type("ship's bell", "object", ("bell", "ship"), ("bronze",), (
        "A bell that struck the half hours of the watch and rang in fog at anchor.",
        "It was recast once after it had cracked in frost, and its name is on it twice.")),
    Type("school bell", "object", ("bell", "school"), ("bronze", "oak"), (
        "The hand bell of the school by the harbour, rung at nine and, in fog, on the pier.",
        "Generations of children have tried to put it out of tune with wool.")),
    Type("ferry bell", "object", ("bell", "ferry"), ("bronze",), (
        "The bell with which passengers on the far bank called the ferry over.",
        "Two strokes called for the foot boat and five for the horse boat; one was ignored.")),
    Type("ferry toll board", "object", ("ferry", "money"), ("pine", "paint"), (
        "A board that lists what the ferry took: a penny for a person, three for a pig, a shilling for a coffin.",
        "Somebody has added a line for bicycles in another hand.")),
    Type("ferryman's horn", "object", ("ferry", "horn"), ("copper",), (
        "A long horn on which the ferryman answered those who called him in the dark.",
        "It could be heard for two miles down the estuary and was used at weddings.")),
    Type("salt scoop", "object", ("salt", "tool"), ("willow",), (
        "A scoop hollowed from one piece of willow, for iron would have stained the salt.",
        "It holds just a peck, and was used as the measure when the official one was missing.")),
    Type("salt tally", "object", ("salt", "money"), ("hazel",), (
        "A stick with notches for the loads that left the pans, split in two so that neither side could cheat.",
        "The two halves of this one came to the museum a generation apart.")),
    Type("kelp fork", "object", ("kelp", "tool"), ("iron", "ash"), (
        "A fork with bent tines for turning burning seaweed in the kilns on the shore.",
        "The ash of it went into glass and soap; the smoke went into everything else.")),
    Type("tin label", "object", ("cannery", "sardine"), ("paper",), (
        "A printed label for a tin of sardines, with a fisherwoman who looks like nobody in particular.",
        "The cannery used eleven languages on its labels and could read four of them."), (1880, 1970)),
    Type("cannery token", "object", ("cannery", "money", "woman"), ("brass",), (
        "A token that a packer was given for each tray, to be turned into money on Saturday.",
        "Tokens could be spent in the works' own shop at once, and for a little less."), (1880, 1940)),
    Type("sea chest", "object", ("sailor", "chest"), ("pine", "hemp"), (
        "A sailor's chest with rope handles and a picture of his ship inside the lid.",
        "In the till were found a razor, a hymn book, three letters and a bag of lavender.")),
    Type("discharge book", "letter", ("sailor", "paper"), ("paper", "cloth"), (
        "A book in which each ship a sailor left stamped a word about his conduct.",
        "One entry is torn out, with care, along a ruler."), (1860, 1970)),
    Type("half-pay note", "letter", ("sailor", "money", "woman"), ("paper", "ink"), (
        "A note by which a sailor's wife could draw half of his pay while he was at sea.",
        "It has been folded so small and so often that it is now in sixteen pieces."), (1790, 1900)),
    Type("letter home", "letter", ("letter home", "family"), ("paper", "ink"), (
        "A letter to his mother, of four pages, three of which are about food.",
        "He asks for news of the dog and sends none of himself, except that he is well."), (1790, 1950)),
    Type("letter from a daughter", "letter", ("letter home", "family", "woman"), ("paper", "ink"), (
        "She writes from her place as a maid in the city that she cannot sleep for want of the sea.",
        "The letter was never answered, for it was kept in the pocket of a coat that went to sea."), (1840, 1950)),
    Type("owner's instructions", "letter", ("ship", "trade"), ("paper", "ink"), (
        "Orders from a shipowner to his captain: where to load, what to pay, whom to avoid.",
        "The captain has written his opinion in the margin and, it seems, sent the copy back."), (1760, 1900)),
    Type("bill for ship's stores", "letter", ("food", "ship", "trade"), ("paper", "ink"), (
        "A chandler's bill for salt pork, pease, biscuit, rum and one small barrel of lemons.",
        "The lemons are struck out and entered again with another price."), (1760, 1910)),
    Type("cook's recipe for sea pie", "letter", ("food", "cook"), ("paper", "ink"), (
        "A receipt for sea pie in layers, which ends with the words: serve before they see it.",
        "The page is stained with what is described on it."), (1800, 1930)),
    Type("customs seizure note", "letter", ("smuggling", "customs"), ("paper", "ink"), (
        "A note of what was taken from a cart on the sands: brandy, lace and a very old donkey.",
        "The donkey was released for want of evidence."), (1760, 1850)),
    Type("reward poster", "letter", ("smuggling", "customs"), ("paper",), (
        "A printed reward for whoever would say where the tubs of a certain night had gone.",
        "It was found behind the panelling of a public house, unclaimed."), (1770, 1850)),
    Type("photograph of the crew", "photograph", ("crew", "portrait"), ("gelatin silver print",), (
        "Nine men and a boy stand before the wheelhouse in their shore clothes and try not to laugh.",
        "The names are written on the back, and one of them is crossed out."), (1865, 1960)),
    Type("photograph of the launch", "photograph", ("launch", "boat building"), ("glass negative",), (
        "A hull goes down the slip with a crowd on both sides and boys on every roof.",
        "The bottle has just been thrown; it can be seen, whole, bouncing off the bow."), (1865, 1950)),
    Type("photograph of the fish quay", "photograph", ("fishing", "market"), ("glass negative",), (
        "Boxes stand in rows on the wet stones and the auctioneer is a blur.",
        "A cat in the foreground has held quite still, which nobody else has."), (1870, 1960)),
    Type("photograph of women at the nets", "photograph", ("net", "woman", "portrait"), ("glass negative",), (
        "Five women sit along a wall with a brown net across their knees, and one of them looks up.",
        "On the plate the photographer has written their wages beside their names."), (1870, 1950)),
    Type("photograph of a wreck", "photograph", ("wreck", "storm"), ("gelatin silver print",), (
        "A hull lies on its side on the sands with the tide out, and people in hats walk round it.",
        "Planks are already missing along the lower strakes, and it has been there for one night."), (1870, 1960)),
    Type("photograph of the frozen harbour", "photograph", ("ice", "winter"), ("glass negative",), (
        "Boats stand upright in the ice, and a stall sells hot eels where the channel is.",
        "The winter was remembered as the one in which the vicar skated to the lightship."), (1870, 1965)),
    Type("portrait of a fishwife", "photograph", ("woman", "market", "portrait"), ("gelatin silver print",), (
        "She stands with her creel on her back and her hand out, and it is not clear who is to pay whom.",
        "The shawl is the same as in four other portraits: it was the photographer's."), (1870, 1940)),
    Type("chart of the estuary", "chart", ("chart", "navigation", "ferry"), ("paper", "ink", "watercolour"), (
        "A manuscript chart of the channels, which were different the year after.",
        "The soundings are in feet at low water and the remarks in a temper."), (1690, 1880)),
    Type("chart of the fishing grounds", "chart", ("chart", "fishing"), ("paper", "ink"), (
        "The marks for finding good ground, as one family had them: the mill over the church, the barn open.",
        "Half of the marks have gone since, and the fish with them."), (1780, 1940)),
    Type("plan of the harbour", "chart", ("harbour", "chart"), ("linen", "ink"), (
        "A plan for a new quay that was never built, with the cost in one corner and the reason in another.",
        "The engineer has drawn a man with a dog to give the scale."), (1780, 1930)),
    Type("log of a coasting voyage", "logbook page", ("log book", "ship", "voyage"), ("paper", "ink"), (
        "A page of a log: wind, course, a torn sail, a lost bucket, and the cook's birthday.",
        "The mate writes in full what the captain has put down as a dash."), (1750, 1930)),
    Type("log of a whaling voyage", "logbook page", ("log book", "whaling", "voyage"), ("paper", "ink"), (
        "A page with whales' tails stamped in the margin, upright for those taken, lying for those lost.",
        "There are eleven lying ones and one that stands."), (1780, 1890)),
    Type("lightship log", "logbook page", ("log book", "lightship", "fog"), ("paper", "ink"), (
        "Fog from four in the morning until the following night, and the siren sounded four thousand times.",
        "Under remarks stands: butter finished."), (1850, 1960)),
    Type("model of a fishing boat", "model", ("model", "boat", "fishing"), ("pine", "cotton"), (
        "A model of a fishing boat at a scale of one to twelve, made by a man who had sailed her.",
        "Everything on deck is where he last put it down.")),
    Type("model of a steamer", "model", ("model", "ship", "steam"), ("tin", "brass"), (
        "A model of a paddle steamer with a clockwork that still turns her wheels.",
        "It was made for a shop window, and sailed once, in the harbour, on a string."), (1850, 1960)),
    Type("votive ship", "model", ("model", "ship", "church"), ("oak", "hemp"), (
        "A ship that hung in the church, given by a crew that had come through a bad night.",
        "She carries more guns than any ship of the coast ever did."), (1720, 1900)),
    Type("child's boat", "model", ("model", "toy", "child"), ("pine",), (
        "A boat whittled for a child from a piece of fish box, with a nail for a mast.",
        "Part of the fish merchant's name can be read along the keel.")),
    Type("gansey", "object", ("knitting", "clothes"), ("wool",), (
        "A fisherman's jersey knitted in the round, with a pattern that was handed down in one street.",
        "The initials above the welt were worked in so that a man could be known by them, whatever happened.")),
    Type("sou'wester", "object", ("clothes", "fisherman"), ("cotton", "linseed oil"), (
        "A hat with a long brim at the back, oiled so many times that it stands by itself.",
        "There are pencil sums inside it.")),
    Type("clay pipe", "object", ("tobacco", "sailor"), ("clay",), (
        "A pipe from the mud of the harbour, its stem bitten through.",
        "Its maker's mark is a ship, as on all pipes that were sold along this quay."), (1690, 1880)),
    Type("mourning brooch", "object", ("jewellery", "drowned", "woman"), ("gold", "hair", "glass"), (
        "A brooch with a lock of hair and a small anchor, for somebody who did not come back.",
        "The date on the back is that of the night on which four boats were lost."), (1800, 1910)),
    Type("rum measure", "object", ("drink", "sailor"), ("copper",), (
        "A measure for half a gill, from which a man drank while the mate looked on.",
        "There is a dent just below the rim that made it a little smaller.")),
    Type("diver's knife", "object", ("diver", "tool"), ("brass", "steel"), (
        "A knife that screws into its sheath, so that it could not be lost under water.",
        "Its blade is sharp on one side and a saw on the other."), (1850, 1970)),
    Type("ice axe of a whaler", "object", ("whaling", "ice", "tool"), ("iron", "ash"), (
        "An axe for cutting a ship free of the ice and for other work that the ice brought.",
        "The haft is burnt with the ship's name and, smaller, with a girl's."), (1780, 1900)),
    Type("powder horn of a wildfowler", "object", ("wildfowl", "hunting"), ("horn", "brass"), (
        "A horn for the powder of a punt gun, flattened to lie in the bottom of a boat.",
        "It is engraved with a duck and a date, and the duck is the better likeness."), (1750, 1900)),
)

CONDITIONS = (
    "One corner has been mended with copper wire.", "The paint has gone except in the hollows.",
    "Salt still comes out of it in dry weather.", "It was cleaned too well at some time and has lost its patina.",
    "A label in the first curator's hand is tied to it with tarred twine.", "It smells faintly of smoke.",
    "Worm has been at it, but not lately.", "The left side is more worn than the right.",
    "It is complete but for one rivet.", "Somebody has cut the year into it with a knife.",
    "A child has scribbled on the back.", "It was found in two pieces a mile apart.", "The lower edge is scorched.",
    "Its number was painted on it in white and then again in red.", "It has never been restored.",
    "Part of it was lost in the flood of 1953.", "It has been kept in oil since it was found.",
    "There is a repair in another wood.", "The maker's stamp is upside down.",
    "It is a little larger than it should be.",
)

PROVENANCE = (
    "Given by the family when the house was cleared.",
    "Bought at the sale of the old chandlery for less than a pound.",
    "Left on the museum's doorstep with a note that said only: yours.", "It came with a boat, in place of a mast.",
    "Exchanged with a museum inland for a stuffed pike.", "Found by children and handed in by their teacher.",
    "Lent in the museum's first year and never asked for again.",
    "Brought up in a trawl and kept on a windowsill for forty years.", "From the estate of the last of that name.",
    "Dug out of the mud when the new quay was built.", "Taken from a skip by a member of staff on his way to work.",
    "Bequeathed with a condition that it be shown on Sundays.", "Sent by post, without a name, from abroad.",
    "Handed over at the door by a man who would not give his name.",
)

# What letters, photographs, charts and pages of logs come to, and what is said of them.
PAPER_CONDITIONS = (
    "The fold has been mended with stamp edging.", "The ink has gone brown and, at the edges, through.",
    "A ring shows where a cup was put down on it.", "The left margin was trimmed by somebody who wanted the stamp.",
    "A child has drawn a whale on the back.", "It is stained with salt water up to the signature.",
    "Mice have had one corner.", "It was pressed in a Bible and is as good as new.",
    "The number was written on it in red and then in blue.",
    "There is a copy in the borough archive, with mistakes of its own.", "It smells faintly of smoke.",
    "One word has been scratched out with a knife.",
)

PAPER_EVENTS = (
    "{other} is named in it twice, and the second time without respect.",
    "On the back the name is written {variant}, which has cost more than one visitor an afternoon.",
    "It was found between the pages of a hymn book aboard the {rig} {ship}.",
    "It is mentioned in a letter from {place} as having been lost.",
    "{other} kept it behind the clock for thirty years.", "The {rig} {ship} can be told by her patched sail.",
    "It was read out in a bar in {place}, and the laughter is still remembered.",
    "The courts wanted to see it in {year2} and sent it back with thanks.",
    "{other} denied until the end of a long life having had anything to do with it.",
)

EVENTS = (
    "{other} is said to have used it on the night the {rig} {ship} came ashore.",
    "In the parish book the owner's name is written {variant}, which has cost more than one visitor an afternoon.",
    "It went to sea in the {rig} {ship} and came back, which not everybody aboard did.",
    "{other} swore before the magistrate to have found it on the beach.",
    "It was pawned every Monday and fetched back every Saturday.",
    "The same thing can be seen in a photograph taken on board the {ship}.",
    "{other} taught three apprentices with it, one of whom became mayor.",
    "It is mentioned in a letter from {place} as having been lost.",
    "The {rig} {ship} carried two of them; this is the one that was not thrown overboard.",
    "It paid for a passage to {place}, and was bought back on the return.",
    "{other} would not have it in the house after a death.",
    "It was won at cards in {place} and lost again the same night.",
    "An inspector condemned it in {year2}, and it was used for another twenty years.",
    "It hung in a bar in {place} for a generation, where it was known as the captain.",
    "A strip of paper inside it says that {other} owes {person} four shillings.",
)
# fmt: on
