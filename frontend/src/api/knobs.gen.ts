// Written by tools/write_knobs.py: what each knob of a ranker is.
export const KNOBS = {
  "Ranker": {
    "readings": {
      "kind": "own",
      "words": "reading",
      "says": "the fields that are read, each through a chain"
    },
    "combine": {
      "kind": "own",
      "words": "",
      "says": "how readings become one score"
    },
    "need": {
      "kind": "own",
      "words": "words needed",
      "says": "how many words of a query a record must hold",
      "start": "any"
    },
    "spelling": {
      "kind": "own",
      "words": "spelling slack",
      "says": "what words near a word of the query count"
    },
    "typing": {
      "kind": "own",
      "words": "as typed",
      "says": "the last word is a beginning while it is being typed"
    },
    "completions": {
      "kind": "own",
      "words": "completions",
      "says": "whole suggestions for what is being typed"
    },
    "corrections": {
      "kind": "own",
      "words": "did you mean",
      "says": "what a query may have meant"
    },
    "feedback": {
      "kind": "own",
      "words": "feedback",
      "says": "words of the first records that are looked for too"
    },
    "signals": {
      "kind": "own",
      "words": "signal",
      "says": "numbers known about a record before any query"
    },
    "rules": {
      "kind": "own",
      "words": "rule",
      "says": "what is done for certain queries"
    },
    "filters": {
      "kind": "own",
      "words": "filter",
      "says": "what every record in a list has to pass"
    },
    "one_per": {
      "kind": "own",
      "words": "one per",
      "says": "a field: of the records that share a value only the best is shown"
    },
    "equals_by": {
      "kind": "own",
      "words": "equals by",
      "says": "fields that settle equal scores, - for the greatest first; then the key"
    },
    "spaces": {
      "kind": "own",
      "words": "space",
      "says": "spaces of vectors that are asked beside the words"
    },
    "blend": {
      "kind": "own",
      "words": "blend",
      "says": "how words and meaning become one list"
    },
    "second_stage": {
      "kind": "own",
      "words": "second stage",
      "says": "the first records in a new order, word by word"
    },
    "kinds": {
      "kind": "own",
      "words": "kind of queries",
      "says": "kinds of queries with a blend of their own"
    }
  },
  "Reading": {
    "field": {
      "kind": "own",
      "words": "field",
      "says": "the field that is read"
    },
    "chain": {
      "kind": "own",
      "words": "chain",
      "says": "its record chain: notation, @name or @name:version of a saved chain, or a chain for each language"
    },
    "query_chain": {
      "kind": "own",
      "words": "query chain",
      "says": "the chain for the query"
    },
    "weight": {
      "kind": "number",
      "words": "weight",
      "says": "how much its matches weigh; 0 switches the reading off",
      "least": 0,
      "most": 1000000,
      "step": 0.1,
      "reach": 10,
      "start": 1.0
    },
    "k1": {
      "kind": "number",
      "words": "k1",
      "says": "how long more occurrences of a term go on adding",
      "least": 0,
      "most": 1000,
      "step": 0.1,
      "reach": 3,
      "start": 1.2
    },
    "b": {
      "kind": "number",
      "words": "b",
      "says": "how much longer values are held back",
      "least": 0,
      "most": 1,
      "step": 0.05,
      "start": 0.75
    },
    "share": {
      "kind": "number",
      "words": "share of a word's terms",
      "says": "of the terms that a word is cut into, how many a record must hold before this reading finds the word; 0: any one. For grams",
      "least": 0,
      "most": 1,
      "step": 0.05,
      "start": 0.0
    },
    "slack": {
      "kind": "switch",
      "words": "spelling slack",
      "says": "whether spelling slack reaches it",
      "start": true
    },
    "nearness": {
      "kind": "own",
      "words": "nearness",
      "says": "extra for words of the query that stand near each other"
    },
    "synonyms": {
      "kind": "number",
      "words": "worth of synonyms",
      "says": "what a word counts that the query chain's synonyms put beside a word of the query",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.6
    }
  },
  "Nearness": {
    "weight": {
      "kind": "number",
      "words": "weight",
      "says": "how much it adds",
      "least": 0.1,
      "most": 1000,
      "step": 0.1,
      "reach": 10,
      "start": 1.0
    },
    "gap": {
      "kind": "whole",
      "words": "gap",
      "says": "how many other words may stand between",
      "least": 0,
      "most": 50,
      "step": 1,
      "reach": 10,
      "unit": "words",
      "start": 0
    },
    "same_order": {
      "kind": "switch",
      "words": "in the query’s order",
      "says": "whether they must come as in the query",
      "start": true
    }
  },
  "Combine": {
    "how": {
      "kind": "choice",
      "words": "readings combined",
      "says": "how readings become one score",
      "choices": [
        [
          "sum",
          "summed"
        ],
        [
          "strongest",
          "the strongest"
        ],
        [
          "pooled",
          "pooled"
        ]
      ],
      "start": "sum"
    },
    "share": {
      "kind": "number",
      "words": "share of the rest",
      "says": "with strongest, how much of the other readings' scores is added",
      "least": 0,
      "most": 1,
      "step": 0.05,
      "where": {
        "name": "how",
        "says": [
          "strongest"
        ]
      },
      "start": 0.0
    },
    "k1": {
      "kind": "number",
      "words": "k1 of the pool",
      "says": "with pooled, how long more occurrences of a term go on adding",
      "least": 0,
      "most": 1000,
      "step": 0.1,
      "reach": 5,
      "where": {
        "name": "how",
        "says": [
          "pooled"
        ]
      },
      "start": 1.2
    }
  },
  "Spelling": {
    "edits": {
      "kind": "own",
      "words": "edits",
      "says": "how many letters may be left out, put in, exchanged or have changed places: 0, 1, 2, or by the length of the word",
      "least": 0,
      "most": 2,
      "step": 1,
      "start": "by_length"
    },
    "lengths": {
      "kind": "own",
      "words": "lengths",
      "says": "from how many letters on a word is allowed one edit, and two",
      "least": 1,
      "most": 60,
      "unit": "letters",
      "where": {
        "name": "edits",
        "says": [
          "by_length"
        ]
      },
      "start": [
        5,
        8
      ]
    },
    "fixed_start": {
      "kind": "whole",
      "words": "letters that must agree",
      "says": "so many letters at the beginning must be the same",
      "least": 0,
      "most": 10,
      "step": 1,
      "reach": 4,
      "unit": "letters",
      "start": 1
    },
    "most": {
      "kind": "whole",
      "words": "most terms",
      "says": "of all candidates for a word, the nearest and most frequent so many count",
      "least": 1,
      "most": 100,
      "step": 1,
      "unit": "terms",
      "start": 20
    },
    "worth": {
      "kind": "number",
      "words": "worth",
      "says": "what a term one edit away is worth; two away, its square",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.5
    },
    "when": {
      "kind": "choice",
      "words": "when",
      "says": "always, where few records hold the word, or where none does in a reading that takes slack",
      "choices": [
        [
          "missing",
          "no record has it"
        ],
        [
          "rare",
          "few records have it"
        ],
        [
          "always",
          "always"
        ]
      ],
      "start": "missing"
    },
    "rare": {
      "kind": "whole",
      "words": "rare below",
      "says": "with rare, so many records are no longer few",
      "least": 1,
      "most": 1000000,
      "step": 1,
      "reach": 100,
      "unit": "records",
      "where": {
        "name": "when",
        "says": [
          "rare"
        ]
      },
      "start": 5
    },
    "similar": {
      "kind": "maybe number",
      "words": "similar from",
      "says": "terms that share so much of their trigrams are candidates too, worth their similarity: for names",
      "least": 0.1,
      "most": 1,
      "step": 0.05,
      "begins": 0.5
    }
  },
  "Typing": {
    "when": {
      "kind": "choice",
      "words": "a beginning",
      "says": "when the last word is one: only while it is being typed, of a whole query too where no record has the word, or of every query",
      "choices": [
        [
          "typed",
          "while it is typed"
        ],
        [
          "missing",
          "and where no record has it"
        ],
        [
          "always",
          "always"
        ]
      ],
      "start": "typed"
    },
    "letters": {
      "kind": "whole",
      "words": "beginnings from",
      "says": "so many letters are taken for a beginning; fewer only where words are written without blanks",
      "least": 1,
      "most": 20,
      "step": 1,
      "reach": 6,
      "unit": "letters",
      "start": 1
    },
    "worth": {
      "kind": "number",
      "words": "worth of beginnings",
      "says": "what a longer word counts against the word as it is typed",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.7
    },
    "most": {
      "kind": "whole",
      "words": "most words of a beginning",
      "says": "of all words that begin so, those in the most records, so many, count",
      "least": 1,
      "most": 10000,
      "step": 1,
      "reach": 200,
      "unit": "words",
      "start": 100
    },
    "slack": {
      "kind": "whole",
      "words": "edits in a beginning",
      "says": "where no word begins so, how many letters of it may be left out, put in, exchanged or have changed places",
      "least": 0,
      "most": 2,
      "step": 1,
      "start": 1
    },
    "slack_from": {
      "kind": "whole",
      "words": "such edits from",
      "says": "so many letters may have an edit; twice as many two",
      "least": 1,
      "most": 60,
      "step": 1,
      "reach": 10,
      "unit": "letters",
      "start": 4
    },
    "slack_worth": {
      "kind": "number",
      "words": "worth of an edit",
      "says": "what a beginning one edit away is worth; two away, its square",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.5
    }
  },
  "Completions": {
    "sources": {
      "kind": "own",
      "words": "suggestions from",
      "says": "where suggestions come from; without any: past queries, values of the title, and phrases of up to four fields of texts that the ranker reads"
    },
    "begins": {
      "kind": "choice",
      "words": "typed from",
      "says": "what is typed is the beginning of the suggestion, or of any word in it and what follows",
      "choices": [
        [
          "suggestion",
          "its beginning"
        ],
        [
          "word",
          "any word in it"
        ]
      ],
      "start": "word"
    },
    "popular": {
      "kind": "number",
      "words": "popularity",
      "says": "0: what fits what was typed best comes first, the shortest; 1: the most popular",
      "least": 0,
      "most": 1,
      "step": 0.05,
      "start": 0.5
    },
    "later": {
      "kind": "number",
      "words": "worth of a later word",
      "says": "how well it fits where the typed letters begin a later word of it",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.6
    },
    "slack": {
      "kind": "whole",
      "words": "edits forgiven",
      "says": "after those that fit, suggestions that are one edit away: 0 or 1",
      "least": 0,
      "most": 1,
      "step": 1,
      "start": 1
    },
    "slack_from": {
      "kind": "whole",
      "words": "such edits from",
      "says": "so many letters may have one",
      "least": 1,
      "most": 60,
      "step": 1,
      "reach": 10,
      "unit": "letters",
      "start": 4
    },
    "fold": {
      "kind": "switch",
      "words": "inflections once",
      "says": "of suggestions that the ranker reads alike, by its reading of the first source, one is shown",
      "start": true
    },
    "language": {
      "kind": "own",
      "words": "language in",
      "says": "a field with the record’s language: its suggestions are of that language"
    },
    "withhold": {
      "kind": "own",
      "words": "withheld",
      "says": "a word list, @name: what holds a word of it is never shown"
    }
  },
  "Corrections": {
    "sure": {
      "kind": "number",
      "words": "as sure as",
      "says": "how likely a correction has to be, among all ways to read the query",
      "least": 0,
      "most": 1,
      "step": 0.05,
      "start": 0.8
    },
    "letters": {
      "kind": "whole",
      "words": "corrected from",
      "says": "so many letters may hold a slip",
      "least": 2,
      "most": 20,
      "step": 1,
      "reach": 10,
      "unit": "letters",
      "start": 3
    },
    "more": {
      "kind": "number",
      "words": "times as much",
      "says": "words that records hold are only joined or parted where so many times as many records hold all the words",
      "least": 1,
      "most": 1000,
      "step": 0.5,
      "reach": 10,
      "start": 3.0
    },
    "take": {
      "kind": "choice",
      "words": "taken by itself",
      "says": "whether the list of the correction is shown at once: never, or where the words found nothing",
      "choices": [
        [
          "never",
          "never"
        ],
        [
          "nothing",
          "where nothing was found"
        ]
      ],
      "start": "never"
    }
  },
  "FieldValues": {
    "values": {
      "kind": "own",
      "words": "values of",
      "says": "a field: its values"
    },
    "by": {
      "kind": "own",
      "words": "weighted by",
      "says": "a field of numbers: their sum over the records that have the value; the number of these where it is left out"
    },
    "worth": {
      "kind": "number",
      "words": "worth",
      "says": "what the popularity of its suggestions is multiplied by",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 1.0
    }
  },
  "FieldPhrases": {
    "phrases": {
      "kind": "own",
      "words": "phrases of",
      "says": "a field: words in a row that it holds again and again"
    },
    "fewest": {
      "kind": "whole",
      "words": "fewest words",
      "says": "so many words in a row at least",
      "least": 1,
      "most": 5,
      "step": 1,
      "unit": "words",
      "start": 2
    },
    "words": {
      "kind": "whole",
      "words": "most words",
      "says": "so many words in a row at most",
      "least": 1,
      "most": 5,
      "step": 1,
      "unit": "words",
      "start": 3
    },
    "records": {
      "kind": "whole",
      "words": "held by at least",
      "says": "so many records hold it",
      "least": 2,
      "most": 1000000,
      "step": 1,
      "reach": 50,
      "unit": "records",
      "start": 3
    },
    "worth": {
      "kind": "number",
      "words": "worth",
      "says": "what the popularity of its suggestions is multiplied by",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.5
    }
  },
  "PastQueries": {
    "asked": {
      "kind": "whole",
      "words": "asked at least",
      "says": "past queries that were asked so often",
      "least": 1,
      "most": 1000000000,
      "step": 1,
      "reach": 50,
      "unit": "times"
    },
    "worth": {
      "kind": "number",
      "words": "worth",
      "says": "what the popularity of its suggestions is multiplied by",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 1.0
    }
  },
  "Feedback": {
    "how": {
      "kind": "choice",
      "words": "weighed",
      "says": "how the words of the first records are weighed: as a relevance model, by the records’ scores and each word’s share of its record, or by the mean of the records, rare words weighing more",
      "choices": [
        [
          "model",
          "as a relevance model"
        ],
        [
          "mean",
          "by the mean record"
        ]
      ],
      "start": "model"
    },
    "records": {
      "kind": "whole",
      "words": "first records",
      "says": "from so many of the first records by words",
      "least": 1,
      "most": 100,
      "step": 1,
      "reach": 30,
      "unit": "records",
      "start": 10
    },
    "terms": {
      "kind": "whole",
      "words": "most terms of feedback",
      "says": "in each reading, of all terms of these records, so many count",
      "least": 1,
      "most": 100,
      "step": 1,
      "reach": 50,
      "unit": "terms",
      "start": 10
    },
    "share": {
      "kind": "number",
      "words": "share of feedback",
      "says": "how much of the query they are: at 0.5 as much as what was typed",
      "least": 0.05,
      "most": 0.9,
      "step": 0.05,
      "start": 0.3
    },
    "common": {
      "kind": "number",
      "words": "passed over above",
      "says": "terms that a greater share of all records holds are passed over",
      "least": 0.05,
      "most": 1,
      "step": 0.05,
      "start": 0.1
    },
    "finds": {
      "kind": "switch",
      "words": "finds records by itself",
      "says": "whether records that hold none of the query’s own words are found by them",
      "start": true
    },
    "field": {
      "kind": "own",
      "words": "words of one field",
      "says": "only the words of this field; none: those of each reading, looked for where they were found"
    }
  },
  "Signal": {
    "field": {
      "kind": "own",
      "words": "field",
      "says": "a field of numbers, dates or flags"
    },
    "shape": {
      "kind": "choice",
      "words": "shape",
      "says": "what is made of the number",
      "choices": [
        [
          "log",
          "logarithm"
        ],
        [
          "saturation",
          "saturation"
        ],
        [
          "rank",
          "rank among all"
        ],
        [
          "value",
          "the number itself"
        ],
        [
          "flag",
          "flag"
        ],
        [
          "half_life",
          "fresh: half-life"
        ],
        [
          "linear",
          "fresh: linear"
        ],
        [
          "bell",
          "fresh: bell"
        ]
      ]
    },
    "weight": {
      "kind": "number",
      "words": "weight",
      "says": "how much of it counts",
      "least": -1000000,
      "most": 1000000,
      "step": 0.1,
      "reach": 5,
      "start": 1.0
    },
    "scale": {
      "kind": "number",
      "words": "scale",
      "says": "where the shape bends, in the field's unit",
      "least": 1e-06,
      "most": 1000000000000.0,
      "where": {
        "name": "shape",
        "says": [
          "log",
          "saturation",
          "half_life",
          "linear",
          "bell"
        ]
      },
      "start": 1.0
    },
    "without": {
      "kind": "number",
      "words": "without",
      "says": "what a record without the number gets",
      "least": -1000000000.0,
      "most": 1000000000.0,
      "start": 0.0
    },
    "now": {
      "kind": "own",
      "words": "now",
      "says": "the day or number from which age counts; left out, the greatest value that any record has",
      "where": {
        "name": "shape",
        "says": [
          "half_life",
          "linear",
          "bell"
        ]
      }
    },
    "how": {
      "kind": "choice",
      "words": "counts",
      "says": "added to the score, or multiplying it",
      "choices": [
        [
          "add",
          "added"
        ],
        [
          "multiply",
          "multiplied"
        ]
      ],
      "start": "add"
    }
  },
  "Rule": {
    "when": {
      "kind": "own",
      "words": "when",
      "says": "which queries it is for; left out, every query"
    },
    "do": {
      "kind": "own",
      "words": "do",
      "says": "what it does"
    },
    "reason": {
      "kind": "own",
      "words": "reason",
      "says": "why",
      "start": ""
    },
    "until": {
      "kind": "own",
      "words": "until",
      "says": "its last day (UTC)"
    },
    "on": {
      "kind": "switch",
      "words": "on",
      "says": "whether it is switched on",
      "start": true
    }
  },
  "SpaceUse": {
    "space": {
      "kind": "own",
      "words": "space",
      "says": "the space that is asked"
    },
    "weight": {
      "kind": "number",
      "words": "weight",
      "says": "how much it counts among the spaces",
      "least": 0.01,
      "most": 1000,
      "step": 0.01,
      "reach": 5,
      "start": 1.0
    },
    "fetch": {
      "kind": "whole",
      "words": "fetches",
      "says": "so many nearest records at most",
      "least": 1,
      "most": 10000,
      "step": 1,
      "unit": "records",
      "start": 100
    },
    "at_least": {
      "kind": "maybe number",
      "words": "at least",
      "says": "records less alike than this are left out",
      "least": -1000000.0,
      "most": 1000000.0,
      "begins": 0
    },
    "near_enough": {
      "kind": "maybe number",
      "words": "near enough",
      "says": "of the groups that vectors are in, only so large a share is looked through; what lies in others is missed",
      "least": 1e-06,
      "most": 1,
      "begins": 0.05
    },
    "mended": {
      "kind": "switch",
      "words": "reads mended words",
      "says": "whether words that no record holds are read as what spelling slack found instead",
      "start": false
    }
  },
  "Blend": {
    "how": {
      "kind": "choice",
      "words": "how",
      "says": "in which way lists become one",
      "choices": [
        [
          "reciprocal_rank",
          "ranks, fused"
        ],
        [
          "weighted_sum",
          "scores, added"
        ],
        [
          "fill_up",
          "words, then meaning"
        ],
        [
          "reorder",
          "words, reordered"
        ],
        [
          "formula",
          "by a formula"
        ]
      ],
      "start": "reciprocal_rank"
    },
    "meaning": {
      "kind": "number",
      "words": "meaning",
      "says": "from 0, words alone, to 1, spaces alone",
      "least": 0,
      "most": 1,
      "step": 0.01,
      "where": {
        "name": "how",
        "says": [
          "reciprocal_rank",
          "weighted_sum"
        ]
      },
      "start": 0.5
    },
    "k": {
      "kind": "number",
      "words": "k",
      "says": "how little first ranks stand out",
      "least": 0,
      "most": 100000,
      "where": {
        "name": "how",
        "says": [
          "reciprocal_rank"
        ]
      },
      "start": 60.0
    },
    "normalise": {
      "kind": "choice",
      "words": "scores made comparable by",
      "says": "how the scores of lists are brought to one scale",
      "choices": [
        [
          "min_max",
          "min-max"
        ],
        [
          "z_score",
          "z-score"
        ],
        [
          "rank",
          "rank"
        ],
        [
          "none",
          "nothing"
        ]
      ],
      "where": {
        "name": "how",
        "says": [
          "weighted_sum"
        ]
      },
      "start": "min_max"
    },
    "fetch": {
      "kind": "whole",
      "words": "records by words",
      "says": "so many of the words' records take part",
      "least": 1,
      "most": 100000,
      "step": 1,
      "unit": "records",
      "start": 1000
    },
    "depth": {
      "kind": "whole",
      "words": "depth",
      "says": "so many first records are reordered",
      "least": 1,
      "most": 10000,
      "step": 1,
      "unit": "records",
      "where": {
        "name": "how",
        "says": [
          "reorder"
        ]
      },
      "start": 50
    },
    "formula": {
      "kind": "own",
      "words": "formula",
      "says": "a score from all that is known",
      "where": {
        "name": "how",
        "says": [
          "formula"
        ]
      }
    }
  },
  "SecondStage": {
    "space": {
      "kind": "own",
      "words": "space",
      "says": "a space with vectors of words"
    },
    "first": {
      "kind": "whole",
      "words": "first",
      "says": "so many records are put in a new order",
      "least": 1,
      "most": 200,
      "step": 1,
      "unit": "records",
      "start": 20
    },
    "weight": {
      "kind": "number",
      "words": "weight",
      "says": "how much of the new order counts",
      "least": 0,
      "most": 1,
      "step": 0.01,
      "start": 0.5
    }
  }
} as const
