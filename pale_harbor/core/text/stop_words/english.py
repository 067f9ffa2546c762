"""English words that say little about what a text is about: articles, pronouns, prepositions, auxiliaries.

Drawn up by us. "not" and "no" stay out of the list: a search for "no smoking" is about smoking not at all.
"""

from typing import Final

STOP_WORDS: Final = frozenset(
    """
    a an the this that these those
    i me my mine myself we us our ours ourselves you your yours yourself yourselves
    he him his himself she her hers herself it its itself they them their theirs themselves one's
    who whom whose which what
    am is are was were be been being
    have has had having do does did doing done
    will would shall should can could may might must
    and or but nor so yet if because as while until although though unless whether than
    of at by for with about against between into through during before after above below to from up down
    in out on off over under again further onto upon within without toward towards
    then once here there when where why how
    all any both each few more most other some such only own same too very just also
    i'm i've i'd i'll you're you've you'd you'll he's he'd he'll she's she'd she'll it's it'd it'll
    we're we've we'd we'll they're they've they'd they'll that's who's what's here's there's where's
    isn't aren't wasn't weren't hasn't haven't hadn't doesn't don't didn't won't wouldn't shan't shouldn't
    can't cannot couldn't mustn't let's
    """.split()
)
