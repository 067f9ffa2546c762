"""What people of the coast told: pieces of which the long oral histories are put together, each about something."""

# subject: pieces, about seventy words each; {father}, {village}, {boat}, {skipper}, {year} are filled in.
PIECES: dict[str, tuple[str, ...]] = {
    "childhood": (
        "I was born in {village} in a house that shook when the sea was up. There were seven of us in two beds, and the one by the wall was dry. My mother put the youngest in a herring box with a blanket, and that was a cradle until the box was wanted. We had no clock. You knew the hour by the tide and by whose boots went past the window, and by the smell of the bread in number nine.",
        "The beach was our playground, and we knew what everything was that came in on it. Boards with writing in foreign letters, oranges once, a leg that turned out to be a table's. My brother found a drowned pig and sold it before noon. We were not allowed past the third groyne, and that is where we always were. If {father} saw us there he said nothing, but he moved his cap, and we ran.",
        "School was up the hill, so that we should be away from the boats, and every window of it looked at the sea. The mistress had to teach with her back to the glass or nobody would have heard a word. When the gun went for the lifeboat all the boys stood up at once. She gave in after a while, and it counted as drill. I can spell, though. She saw to that with a ruler.",
    ),
    "first boat": (
        "I went with {father} when I was eleven, for a week, to see if I would be sick. I was sick from the pier to the grounds and back. On the Thursday he gave me a raw onion and told me to look at the land, and that was that, I have never been ill since, except ashore. I had a corner of the {boat} to sleep in, between the nets and the stove, and I thought it was the best place in the world.",
        "The {boat} was an old boat when I came to her. She leaked so that you could hear it. {skipper} said a dry boat is a boat with nothing under her. I was the boy, which means that I cooked, and pumped, and was blamed. I had a pot, a spoon and a frying pan with a hole stopped by a penny. By the end of that season I could fry a sole in a gale, and I would not have changed with the mayor.",
    ),
    "weather": (
        "You could smell it coming. Before an easterly the harbour smelt of iron, I cannot say it better. The gulls sat down in the fields and {skipper} would not light his pipe. Younger men looked at the glass and went out, and mostly the glass was right, and then there was the day when it was not. I have seen the sea go flat as oil in the middle of a wind, and the old men took their caps off to it.",
        "The worst was {year}. It blew from the north for three days and on the third it went round in the time that it takes to boil an egg. We had nine boats out. You could hear the bar from the church, and then you could not hear the church. The women stood along the wall and nobody spoke, for if you say a name out loud it is heard. Six boats came in over the bar that night and two went round to Brannock, and we waited for the ninth.",
        "People think that fog is quiet. It is full of noises, but they are in the wrong place. I have heard a dog bark above me, in fog, at sea. You stop the engine and listen, and you blow your horn, and something answers that is only yourself coming back from a cliff. We once lay all night beside the pier that we were looking for. In the morning the harbour master asked whether we wanted breakfast.",
    ),
    "food": (
        "We ate fish, of course, but not the fish that you would think. What was fit to be sold was sold. We had the broken ones, and heads, and livers in barley, which I can taste now. On Sundays there was a pudding boiled in a cloth, and the end of it went to whoever had been in a fight. Aboard it was bread until it went green and then biscuit. You knocked the biscuit on the table first, to let them know that you were coming.",
        "At Christmas the cook of the {boat} made a duff with everything that he had, and he had sworn that there would be plums. There were eleven plums for nine men. He had sewn a thread to each, so he could pull back the two that were over. {skipper} read from the book and then we sang, and a seal came up and stayed until the end. We gave it the onion.",
    ),
    "women's work": (
        "Nobody wrote down what the women did, so I shall tell you. My mother baited twelve hundred hooks a day, in the kitchen, with mussels that she had gathered herself at four in the morning, in the dark, up to here. Then she carried {father} out to the boat on her back, so that he should start dry. She weighed seven stone. He went to sea with dry feet, and she went home and did the washing.",
        "I went to the gutting when I was fifteen, with my sister and a girl called Nan. We followed the herring down the coast, from place to place, in a train that had been for cattle. Three to a crew: two gut and one packs. Forty in a minute when it went well. You tied your fingers in rags, and still the salt got in. In the evening we knitted, walking up and down the quay, and the lads walked up and down the other way.",
        "I was the first woman to have a ticket for the ferry, to work her, I mean. They said that the passengers would be frightened. The passengers were cows, for the most part. I had learned it from {father}, who had no sons, or not the kind who get up in the morning. I took her across nineteen thousand times, somebody has worked it out, and I put her aground twice, and once that was because of a wedding.",
    ),
    "accident": (
        "There was a bight of rope, and I stood in it. I knew better. The anchor went and I went with it, over the rail and down, and I remember that it was green and then it was brown. {skipper} put the helm over and cut the warp with the axe that hung there for that purpose and had never once been used. I came up with my boots gone. He looked at me and then at the end of the rope, and he said: that was nearly new.",
        "My brother was lost off the {boat}, in good weather, on a Tuesday. Nobody saw it. He had gone aft to look at the log and when they called him for tea he was not there. They went back along the course with everybody at the rail. It was so calm that you could see your own face. My mother kept his plate on the table for a year and then she gave it to the cat, and that was how we knew that we might speak of him.",
        "We struck at two in the morning. It is not a crash, it is as if somebody had pulled the floor. She lay over and the lamp went out. I heard the lifeboat before I saw her, the oars all together and a man counting. They had rowed five miles in that. The coxswain stood up and said good morning, will you come with us, as if he had a cab. Eleven of us, and the dog. They would not take the melodeon.",
    ),
    "lighthouse": (
        "Four weeks on and two off, if the boat could land. On the rock you had a bunk that was curved like a banana, since the tower was round, and after the first year I could not sleep in a straight bed. You took the watches in turn and wound the clockwork every half hour. You do not read when you are on watch. You look at the light, not straight, and you think. I have thought everything that I had to think, several times.",
        "The three of us got on, because we kept rules. Nobody whistled. Nobody asked what was in a letter. If a man was silent for a day it was let be, and on the second day somebody would bake. We played draughts by the thousand game. Old Garrow cheated, and we knew, and he knew that we knew, and it was a sort of conversation. When the relief was late by eleven days we ate the last tin without a label, and it was peaches.",
    ),
    "superstition": (
        "You never said pig aboard. You said the gentleman, or Sandy. You did not turn the boat against the sun, nor meet a minister, nor put the hatch upside down. {skipper} once turned round and came home since a woman had wished him luck. I do not believe in any of it, and I have never said that word in a boat, and I am eighty-four. The ones who laughed about it were drowned, and so were some of the others, I grant you.",
        "If a man was lost his clothes were not worn by anyone in that house for a year, but they might be swapped with a house where the same thing had happened. I have seen two widows at the fence with their arms full, saying nothing. A cat in a boat was good. A cat that left a boat was not. The {boat}'s cat walked ashore the night before she was lost, over the gangway, with her tail up, and was never asked aboard anything again.",
    ),
    "market": (
        "The sale was at six. The auctioneer had a bell and no teeth, and you had to have grown up with him to know what he said. It went by nods. I bought a box of dabs at nine years old by scratching my ear, and my mother had to sell it on. The big buyers stood in front with their hands in their pockets, and one of them bought with his eyebrow. When the trains came in they bid by telegram, and that was the end of the eyebrow.",
        "We were paid by the share. So many for the boat, so many for the nets, and what was left was cut up among the men. In a bad week I have brought home eightpence and a crab. In a good one {father} bought a piano, though none of us could play and it did not go through the door. It stood in the net loft for thirty years. Fish do not mind, he said. You could hear it hum when the wind was in the west.",
    ),
    "engine": (
        "We got the engine in {year}. {skipper} would not have it called by its name, he said the article. It had one cylinder and a flywheel as big as a table, and it had to be warmed with a lamp for half an hour, so that you were as quick to row. Then one morning there was no wind, none at all, and we went past eleven boats that lay there with their sails hanging. Nobody waved. By the spring there were nine more engines.",
        "With the engine you could go where you liked, and with the wireless you could be told to come back. I do not say that it was better before. But you listened more. With a sail you heard the water along the plank, and from that you knew your speed and your depth and what was under you. Now you hear the article. I have been deaf on the left since I was thirty, because that was the side that I stood on.",
    ),
    "war": (
        "They painted the {boat} grey and put a gun on her that was older than my father. We swept mines, which we called catching the spiky ones. It was fishing with the wrong fish. You went in pairs with a wire between you, slowly, and if it was heavy you did not want to know. {skipper} carried on wearing his bowler. In four years we had one afternoon that I will not tell you about, and the rest of it was tea.",
        "The lights went out along the whole coast, and you did not know how much you had steered by windows. We came in by the smell of the gasworks. My sister worked at the signal station on Kestrel Ness and was not allowed to say what she saw, so she told us what the weather was, and if it was fine we knew that it had been bad. The bell of the church was not to be rung unless they landed. After the war it had to be told twice.",
    ),
    "dance": (
        "There was a dance in the net store on Saturdays, with the nets hung up above you like clouds. A fiddle, a melodeon, and a man who played the bones. You paid with a fish at the door if you had no money. I danced with a lad from the {boat} who said nothing the whole evening, and at the end he said: Tuesday. So I came on Tuesday. We were married fifty-one years and he never became talkative.",
        "We sang at work, not for pleasure but to pull together. There is one for the capstan and another for the sheets, and you do not mix them or somebody loses a finger. The words are not for the museum. I once sang them to the vicar's wife, who was collecting such things, and I put in other words as I went along, about flowers, and they are printed now in a book, and people sing it to me.",
    ),
    "winter": (
        "In winter the boats were drawn up and we lived on what we had salted and on what the shop would write down. The shop wrote down a great deal. {father} went up the coast to cut ice, and came back with his beard white and his pockets full of nails. In the hard one, {year}, you could walk out over the harbour to the beacon. We did, with the pram. The ice talked underneath us the entire way there and was silent on the way home.",
        "We mended nets in the loft all January, the whole family in a row, and whoever was at the end told a story. You mended as far as the story went. I know that some holes were left until the story was finished. There was a stove, and you took turns to be beside it, the smallest longest. I can still do it with my eyes shut, the needle, the mesh stick, round and through. Give me a bit of twine and I will show you.",
    ),
    "smuggling": (
        "You will want to hear about that; they all do. I will say that my grandfather was very fond of night fishing and that he never smelt of fish. There was a hollow under our hearth, where my mother kept the potatoes. The customs man came every New Year and stood on it and drank our health. He had a wooden leg, and when he stamped with it you could hear that it was hollow, and he would say: dry rot. And have another.",
    ),
    "cannery": (
        "The whistle went at six, and you ran with your apron in your hand. Two hundred of us at long tables, and the sprats came down a chute like money. Head, tail, lay them in, fourteen to a tin, silver side up. We were not to talk, so we sang, and when they forbade that we hummed. The forewoman walked behind us in rubber soles. She had been one of us and knew every trick, and she let us keep one trick each.",
        "I came over from the other side with a cardboard case and one word, which was work. They put me at the soldering, for I had been a tinsmith's daughter. Three years I lived with five others in a room above the smoke house. We hung our good frocks out of the window on a string to keep them sweet. On Sundays we walked to the end of the pier and looked at home, which you cannot see from there, but we looked.",
    ),
    "ferry": (
        "The ferry was two boats, a small one for feet and a large one for hooves. You rang the bell on the far side and I came, if I was not asleep. People were born on her, three of them, and one died, between the second and the third post. He had paid. I have carried a circus, with the elephant's front half in the one boat and his back half in the other, and the keeper between, telling him that it was nothing.",
    ),
    "ending": (
        "That is all gone. There are flats where the net store was, with round windows, so that people should feel that they are at sea. I am not sorry. It was cold, and it was dear, and it took the best of us and gave the rest of us bad backs. But on a still evening with the tide making I go down to the steps, and if nobody is looking I put my hand in. It is always the same. It is a bit like having someone in the house.",
        "My grandson asks me what it was for. I said: for eating. He looks at the sea on his telephone before he goes down to it. Perhaps he is right. I gave him {father}'s knife, the one with the mended handle, and he has it in a drawer. You may have the oilskin for your museum, and the lamp. The sea boots I shall want. I have told them that I shall want the boots.",
    ),
}
OPENINGS = (
    "Recorded at home in {village}, with a clock and a budgerigar. ", "Recorded in the net loft at {village}; rain can be heard on the roof. ",
    "Recorded in two sittings, the first of which was spent on tea. ", "Recorded at the museum; the speaker held the object described throughout. ",
)  # fmt: skip
# What each one tells, by calling.
TOLD = {
    "fisherman": ("childhood", "first boat", "weather", "food", "superstition", "accident", "market", "engine", "winter", "war", "ending"),
    "herring girl": ("childhood", "women's work", "market", "dance", "winter", "weather", "superstition", "women's work", "food", "war", "ending"),
    "lighthouse keeper": ("childhood", "first boat", "lighthouse", "weather", "lighthouse", "food", "superstition", "winter", "war", "ending"),
    "lifeboatman": ("childhood", "first boat", "accident", "weather", "accident", "dance", "superstition", "engine", "war", "ending"),
    "cannery worker": ("childhood", "cannery", "women's work", "cannery", "dance", "food", "market", "winter", "war", "ending"),
    "ferrywoman": ("childhood", "ferry", "women's work", "weather", "winter", "smuggling", "dance", "war", "market", "ending"),
    "ship's cook": ("childhood", "first boat", "food", "weather", "food", "accident", "superstition", "dance", "smuggling", "ending"),
}  # fmt: skip
