"""What stands on the demo's sixty scanned pages: four log books and two bundles of letters, all of it made up.

A page has one matter of its own (MATTERS, written by hand) among the days and courtesies around it, which are drawn
from a seed.
"""

import random
from dataclasses import dataclass

# fmt: off
WINDS = ("SW by W", "NE", "N by E", "WSW", "SE", "due W", "variable", "NNW", "E by S", "S and fresh")
WEATHERS = (
    "thick with fog until noon", "squalls and a heavy sea on the bar", "clear, with a hard frost", "small rain all the forenoon",
    "hazy, the horizon not to be seen", "a falling glass and a long swell", "fair, the hills very near", "sleet towards evening",
    "calm, the water like oil", "a strong gale, moderating at dusk",
)
LIGHT = (
    "Trimmed the wicks at the second hour and again at the sixth.", "Cleaned the glass of the lantern, both sides.",
    "Burned four quarts and a gill.", "Wound the clockwork and found it three minutes slow.", "Pumped oil from the lower cistern.",
    "Whitewashed the wall of the yard on the weather side.", "Two sail passed outward, deep laden.", "A smack stood close in and showed no colours.",
    "Cut peats in the afternoon.", "Mended the hen house.", "The tender did not come.", "Aired the bedding and the signal flags.",
)
SAIL = (
    "Hands employed about the rigging.", "Set the fore topmast studding sail.", "Pumps sucked at eight.", "Served out lime juice and vinegar.",
    "Exercised the boats.", "Took in the third reef of the topsails.", "Saw the land bearing ESE, six leagues.", "Spoke a brig from Grauhaven, all well.",
    "Carpenter caulking the long boat.", "Sailmaker at the old main course.", "Opened a cask of beef, No. 14, short by three pieces.", "Washed the lower deck with sand.",
)
TRAWL = (
    "Shot the gear in forty fathoms.", "Hauled at slack water, four baskets and much weed.", "Shifted two miles to the northward.", "Mended net all the forenoon.",
    "Cook laid up with a scalded hand.", "Steamed easy for want of coal.", "Landed eleven boxes at Netherstrand, prices poor.", "Fouled the gear on rough ground and lost a door.",
    "Spoke the Morning Psalm, nothing doing there either.", "Ice nearly gone.", "Boiler leaking at the front plate.", "A good bag of plaice and some soles.",
)
ROCK = (
    "Shewed the light from sunset as ordered.", "Scoured the coppers and the reflectors.", "Received no stores this week.", "Sounded the horn for six hours.",
    "A great swell breaking over the landing stage.", "Secured the boat with a second hawser.", "Saw several ships standing to the westward.", "Set about making a new step for the ladder.",
    "Salted down the fish that we had taken.", "Sent letters by a passing sloop.", "Some slates lost from the store house.", "Served the usual measure of spirits.",
)
SCHOOL = (
    "The children come as the tide lets them, and some days I have six and some days thirty.", "I have the room over the sail loft yet, and the roof is sound at last.",
    "Pray give my love to Father and tell him that his slippers are much admired.", "The days draw in so fast that I write this by one candle.",
    "We had herring on Sunday, and herring on Monday, and I need not tell you of Tuesday.", "Mrs. Mallinder sends a jar of samphire, which I hope the carrier does not break.",
    "I walked to Marrow Point and back, eleven miles, and was the better for it.", "There has been no coach since the bridge was carried away.",
    "I have read your last letter until it has come apart at the folds.", "The wind has been in the chimney a fortnight and we are all kippered.",
)
SALT = (
    "Sir, I have the honour to send herewith the weekly state of the pans.", "Six pans were drawn and the seventh stands cold for want of sea coal.",
    "The seals of the store house were found whole on Saturday.", "I pass over the insolence of the carters, which is as usual.", "Samples are sent by the same vessel, stopped and sealed.",
    "The balance is set down in the second column, less the customary waste.", "I must press for the arrears of wages, the men being distressed.", "The scales were tried against the standard and are just.",
    "Your most obedient servant must beg for some answer to his last seven letters.", "The brine is strong, an egg swims in it with its side shewing.",
)


@dataclass(frozen=True)
class Thing:
    """A bundle of pages. name: of its folder; style: how it is printed; long_s: whether with the old letter."""

    name: str
    title: str
    maker: str
    year: int
    kind: str
    place: str
    style: str
    long_s: bool
    filler: tuple[str, ...]


THINGS = (
    Thing("kestrel-ness-log", "Log of the Kestrel Ness light", "Orla Fenn", 1846, "log book", "Kestrel Ness", "oldstandard", False, LIGHT),
    Thing("corisande-log", "Log of the barque Corisande", "Hinrich Jürgensen", 1861, "log book", "at sea", "junicode", False, SAIL),
    Thing("ebb-and-flow-log", "Log of the trawler Ebb and Flow", "Silas Gathercole", 1903, "log book", "Netherstrand", "oldstandard", False, TRAWL),
    Thing("lanner-rock-log", "Log of the Lanner Rock light", "Jabez Thornholme", 1788, "log book", "Lanner Rock", "essays", True, ROCK),
    Thing("cudworth-letters", "Letters of Susannah Cudworth to her sister", "Susannah Cudworth", 1819, "letters", "Saltmere", "italic", False, SCHOOL),
    Thing("salt-office-letters", "Letter book of the salt office", "Enoch Battersea Lowe", 1791, "letters", "Saltmere", "essays", True, SALT),
)

MATTERS: dict[str, tuple[str, ...]] = {
    "kestrel-ness-log": (
        "The fog bell cracked in the frost, from the lip upward a hand's breadth, and gives now a dull sound that does not carry to the bar. Wrote to the Commissioners for a new one.",
        "A cormorant flew against the lantern in the night and broke a pane. Set the spare pane with putty and burned a candle behind the break until morning.",
        "Came ashore below the station a cask of turpentine, marked with a crown. Rolled it above high water and gave notice to the receiver of wreck.",
        "My assistant Ambrose Tully fell from the gallery ladder and has broken his collar bone. Kept the watch alone, thirty one hours.",
        "The new clockwork came by the tender, with a governor of brass, and was set up by a mechanic from Port Averne who was sick the whole of his stay.",
        "An earthquake, or something very like one, at a quarter past four in the morning. The plates rang on the dresser and the lamp glasses shook in their holders.",
        "The schooner Lady Oriel struck on the Swash. Burned blue lights until the lifeboat was alongside. Eleven saved, and the master's dog.",
        "Found the rain water in the cistern brackish from the spray and unfit to drink. Melted snow for tea.",
        "Ruth Ottaway was brought to bed of a daughter in the lower room, there being no boat. Midwife Dagny Årseth came over the ice on the marsh.",
        "An inspector of the Commissioners measured the flame with an instrument of his own, and pronounced it the steadiest between Tidewick and the Norway shore.",
    ),
    "corisande-log": (
        "Found the second mate asleep upon his watch, and logged him for it. He says that the binnacle lamp made him drowsy, which is a strange thing to say of a lamp.",
        "A waterspout half a mile to windward. Fired the gun at it, loaded with old iron, and it fell down in a great rain.",
        "Buried Peder Nygaard, seaman, of a fever. Sold his chest before the mast, and the money is for his mother at Ternholm.",
        "The figurehead carried away by a sea, and with it part of the head rails. The men take it for a bad sign, and the cook worst of all.",
        "Passed through pumice stone floating in fields, some pieces as large as a loaf, and all of it warm to the hand as the boy would have it.",
        "The chronometer was let run down by neglect. Longitude by lunar distances until we speak somebody, and I would not hang a cat on the reckoning.",
        "Took on board at Santa Briga forty tons of cork and nine hundred boxes of lemons, with a passenger for Grauhaven who is an organ builder.",
        "Rats have eaten the bread in the fore peak to the quantity of two hundredweight. Set Lázaro Echeandía to smoke them out with brimstone.",
        "A mutiny of a small kind, in the matter of the pea soup. Read them the articles, and gave them figs.",
        "Sprung the main topmast in a white squall. Fished it with a capstan bar and the spare studding sail boom, and so limped into Cold Haven.",
    ),
    "ebb-and-flow-log": (
        "Brought up in the trawl the bell of a ship, green, with the name CORISANDE on it quite plain. Skipper means to give it to the church or else sell it.",
        "Run into by a German steamer in the fog, who did not stop. Port bulwark stove for nineteen feet and the mizzen gone.",
        "A mine, or what we took for one, in the cod end. Cut all away and steamed off as fast as she would go. It was a boiler.",
        "Deckhand Eli Sproat washed overboard with the third haul and washed back on board again by the same sea, and did not lose his pipe.",
        "Caught a sturgeon of nine feet and four inches. Sent it to the hotel at Netherstrand, where they had it stuffed.",
        "New winch tried. It pulls like a horse and screams like one too, and nobody could sleep.",
        "Amber in the net, three pieces, the largest with a gnat in it. Divided it by lot, and the boy had the gnat.",
        "Saw the northern lights very fine, green and some red, from nine until past midnight. Compass swinging two points.",
        "Put in to Skarrow with a man ill of lead poisoning, he having drunk from the paint kettle. Doctor gave him milk.",
        "The wireless man from Port Averne came aboard to try his apparatus. We heard nothing, then a ship in Spain, then nothing.",
    ),
    "lanner-rock-log": (
        "Some seals have possessed themselves of the landing place and refuse to be shifted. Discharged a musket over their heads to no purpose.",
        "The reflectors of silvered glass being spoiled by the salt, we set in their stead those of polished tin, and they answer as well.",
        "A sloop of his majesty's service passed close under the rock in chase of a smuggler, who slipped inside the Hen and Chickens and was lost to sight.",
        "Lightning struck the vane and ran down by the chain of the weight into the cistern, splitting a stone of the stair but hurting nobody, praise be.",
        "Thomas Sealy, assistant, insists that he has seen a sea serpent. He has signed a statement of it, and so has his wife, who saw it also.",
        "The store of seed oil is found mixed with fish oil, by fraud as I suppose, and smokes most vilely. Sealed a sample for the Commissioners.",
        "So great a swarm of starlings settled upon the lantern that the light was hid. Swept down six baskets of them, and supped upon a pasty.",
        "The mason's scaffold was swept off in the storm with his chest of tools, and he himself saved by the strap of his satchel.",
        "We have had no vessel from the shore these seven weeks, and subsist upon limpets and biscuit. Shewed the signal of distress from sunrise.",
        "Set the sun dial upon the south side of the gallery, and corrected the clock by it, which was fast by some eighteen minutes.",
    ),
    "cudworth-letters": (
        "You will laugh, but I have bought a harmonium. It came from a chapel that was washed into the sea, and two of its keys are swollen and sound together whether one will or no.",
        "There is smallpox in Rope Street, and Doctor Venables goes from door to door with his lancet and his quill, and is not always let in.",
        "A whale came ashore on the Brannock sands, sixty feet from end to end, and the whole school walked out to see it and could not be got to walk back.",
        "I am asked to marry Mr. Wrenfield of the customs. I have asked for a month to think of it, and mean to think of something else.",
        "The comet is to be seen from the end of the quay, with a tail like a feather, and old Pennock says that it means dear bread.",
        "I have begun a herbal of the shore, and have the sea holly, the horned poppy, and eleven sorts of weed that nobody here has a name for.",
        "We had an election, and such drunkenness, and the town pump painted blue. I locked the school and taught the little ones in my kitchen.",
        "They have hanged a man at Port Averne for wrecking, and his children are in my second class, and I do not know what to say to them.",
        "My almanac was wrong as to the eclipse by a whole day, so that I had promised thirty children a darkness, and had to give them a holiday instead.",
        "The telescope that Uncle left me has come at last, in straw, with one lens loose, and I have seen the mountains of the moon from my own bed.",
    ),
    "salt-office-letters": (
        "Some person has substituted sand for salt in eleven sacks of the last consignment, and has sewed them again so neatly that I must suspect a sailmaker.",
        "The great pan is burst at its seams and seven hundred bushels are lost in the ashes. I have dismissed the stoker, who was asleep.",
        "A surveyor is come with instructions to assess the sea wall, and says that it is subject to slips and must be stayed with elm piles.",
        "I have seized two horses and a sled laden with salt that had paid no duty, upon the causeway, at low water, between sunset and sunrise.",
        "Mistress Sibley desires a pension, her husband having been scalded to death in our service. I submit that six shillings is not excessive.",
        "The pestilence among the oxen has stopped all carriage, and I am forced to send salt by asses, at a shameful expense.",
        "Four casks of the best basket salt are presented to the Bishop, as is customary, and his steward complains of the measure as usual.",
        "The press gang has taken nine of my salters against all law and privilege. I request their release, since pans cannot be served by women alone.",
        "A strange substance is discovered at the bottom of the cisterns, bitter to the taste, which the apothecary esteems and purchases by the stone.",
        "Snow lies so deep upon the roofs of the pan houses that one is fallen in, and the salt in it spoiled by soot. Nobody was lost besides a goat.",
    ),
}
DATES = {
    "kestrel-ness-log": ("January", "February"), "corisande-log": ("May", "June"), "ebb-and-flow-log": ("October", "November"),
    "lanner-rock-log": ("September", "October"), "cudworth-letters": ("March", "November"), "salt-office-letters": ("July", "December"),
}
# fmt: on
_DAYS = 6


def text_of(thing: Thing, page: int) -> list[str]:
    """The paragraphs of a page, from 1."""
    chance = random.Random(f"{thing.name} {page}")
    months, matter = DATES[thing.name], MATTERS[thing.name][page - 1]
    month = months[0] if page <= 5 else months[1]
    if thing.kind == "letters":
        around = chance.sample(thing.filler, 8)
        day = f"{thing.place}, the {chance.randint(1, 9) + 9}th of {month}, {thing.year}."
        greeting = "My dear Hester," if thing.name == "cudworth-letters" else "To the Commissioners of the Salt Duties."
        end = "Your loving sister, S. C." if thing.name == "cudworth-letters" else "I remain, Sir, yours, E. B. Lowe."
        return [
            day,
            greeting,
            " ".join(around[:3]),
            " ".join([around[3], matter, around[4]]),
            " ".join(around[5:]),
            end,
        ]
    days = sorted(chance.sample(range(1, 28), _DAYS))
    weathers = chance.sample(WEATHERS, _DAYS)
    around = chance.sample(thing.filler, 2 * _DAYS)
    place = chance.randrange(_DAYS)
    told: list[str] = [f"{thing.title}. {month} {thing.year}."]
    for number, day in enumerate(days):
        head = f"{month} {day}. Wind {chance.choice(WINDS)}, {weathers[number]}."
        own = around[2 * number : 2 * number + 2]
        told.append(" ".join([head, own[0], matter, own[1]] if number == place else [head, *own]))
    return told
