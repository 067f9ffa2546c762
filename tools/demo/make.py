"""Writes the later part of the demo from its facts: records, judged queries, three judges' grades.

The first 330 records and the first 40 queries were written and judged by hand and stay as they are;
the rest follows from facts.py, languages.py, histories.py and wanted.py and a seed. Run it from the root:

    python tools/demo/make.py
"""

import csv
import json
import random
import re
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from facts import (
    CONDITIONS,
    EVENTS,
    PAPER_CONDITIONS,
    PAPER_EVENTS,
    PEOPLE,
    PLACES,
    PROVENANCE,
    SHIPS,
    TYPES,
    Person,
    Type,
)
from histories import OPENINGS, PIECES, TOLD
from languages import AT, FROM, LANGUAGES, OF, REMARKS
from wanted import EARLIER, JUDGES, WANTED, WORDS_OF_SUBJECTS, Rule

DEMO = Path(__file__).parents[2] / "demo"
BY_HAND, QUERIES_BY_HAND = 330, 40
ENGLISH, EACH_LANGUAGE, HISTORIES = 880, 76, 40
OWN = ("own_texts_1.txt", "own_texts_2.txt", "own_texts_3.txt")
CODES = {"object": "SMC", "instrument": "IN", "letter": "L.", "photograph": "PH ", "chart": "CH", "model": "BM", "logbook page": "LB", "oral history": "OH"}  # fmt: skip
PICTURED = {"lighthouse": "lighthouse", "bell": "bell", "herring": "herring", "net": "net", "rope": "rope", "barrel": "barrel", "model": "model", "log book": "logbook", "chart": "chart", "told": "voice", "lamp": "lamp", "navigation": "sextant", "weather": "barometer", "lifeboat": "lifeboat", "ferry": "ferry", "boat building": "adze", "portrait": "camera", "letter home": "letter"}  # fmt: skip
# Pictures by kind, where no subject has one; some kinds have none.
BY_KIND = {
    "photograph": "camera",
    "letter": "letter",
    "chart": "chart",
    "model": "model",
    "logbook page": "logbook",
    "oral history": "voice",
}
# A fifth of each kind of trouble is locked away from everyday looking.
LOCKED = frozenset(
    "q05 q07 q12 q19 q31 q33 q37 q43 q48 q50 q53 q56 q57 q68 q75 q76 q83 q88 q94 q101 q104 q111 q115 q120 q122".split()
)
MOST = {3: 26, 2: 18, 1: 12, 0: 8}
Record = dict[str, Any]


@dataclass
class Made:
    """A record with the facts behind it."""

    record: Record
    facts: set[str] = field(default_factory=set[str])
    type: Type | None = None
    slots: dict[str, Any] = field(default_factory=dict[str, Any])


def english(chance: random.Random, number: int) -> Made:
    kind = TYPES[number % len(TYPES)]
    maker, other = chance.sample(PEOPLE, 2)
    rig, ship = chance.choice(SHIPS)
    place = chance.choice(
        [
            name
            for name in PLACES
            if name not in ("Ternholm", "Veldhavn", "Grauhaven", "Port-Saint-Alban", "Santa Briga")
        ]
    )
    year = chance.randint(*kind.years)
    facts = {
        *kind.subjects,
        f"type:{kind.noun}",
        f"kind:{kind.kind}",
        "lang:en",
        f"place:{place}",
        f"person:{maker.name}",
    }
    title, at_sea = chance.choice(
        [
            ("{noun} of {maker}", False),
            ("{noun} from the {rig} {ship}", True),
            ("{noun}, {place}", False),
            ("{noun} of {maker}, {place}", False),
        ]
    )
    noun = kind.noun[0].upper() + kind.noun[1:]
    if kind.kind in ("letter", "photograph", "logbook page", "chart"):
        title, at_sea = chance.choice(
            [
                (f"{noun}, {{place}}, {year}", False),
                (f"{noun}, {{rig}} {{ship}}", True),
                (f"{noun} by {{maker}}", False),
            ]
        )
    sentences = [*kind.leads] if chance.random() < 0.7 else [kind.leads[chance.randrange(2)]]
    on_paper = kind.kind in ("letter", "photograph", "logbook page", "chart")
    events = chance.sample(PAPER_EVENTS if on_paper else EVENTS, chance.choice([1, 1, 2]))
    if sum("{other}" in event for event in events) > 1:
        events = events[:1]
    remark = chance.choice(PAPER_CONDITIONS if on_paper else CONDITIONS)
    text = " ".join([*sentences, *events, remark, *([chance.choice(PROVENANCE)] if chance.random() < 0.6 else [])])
    slots = {"noun": noun, "maker": maker.name, "person": maker.name, "other": other.name, "variant": chance.choice(maker.others), "rig": rig, "ship": ship, "place": chance.choice([p for p in PLACES if p != place]), "year2": year + chance.randint(3, 20)}  # fmt: skip
    if any("{other}" in event for event in events):
        facts.add(f"names:{other.name}")
    if any("in a bar in" in event for event in events):
        facts.add("names:bar")
    if at_sea or any("{ship}" in event for event in events):
        facts.add(f"ship:{ship}")
    if at_sea:
        facts.add("titled")
    written = maker.name if chance.random() < 0.8 else chance.choice(maker.others)
    record = begun(title.format(**slots | {"place": place}), text.format(**slots), kind, place, year, "en", chance)
    if kind.kind != "photograph" or chance.random() < 0.5:
        record["maker"] = written
    else:
        facts.discard(f"person:{maker.name}")
    if "{maker}" not in title and "maker" not in record:
        facts.discard(f"person:{maker.name}")
    elif "{maker}" in title:
        facts.add(f"person:{maker.name}")
    return Made(record, facts, kind, slots)


def give_own_texts(made: list[Made], reached: set[str]) -> int:
    """Gives texts that no other record has to those which judged queries reach; returns how many.

    What they are about and whom they name stays as it was, and so do their grades.
    """
    links = own_texts("links.txt")
    texts = {noun: list(own) for name in OWN for noun, own in own_texts(name).items()}
    said: set[str] = set()
    count = 0
    for one in made:
        left = texts[one.type.noun] if one.type and one.record["id"] in reached else []
        if not left:
            continue
        named = any(fact.startswith("names:") and fact != "names:bar" for fact in one.facts)
        aboard = any(fact.startswith("ship:") for fact in one.facts) and "titled" not in one.facts
        text = left.pop(0)
        for link, says in (("another", named), ("ship", aboard), ("inn", "names:bar" in one.facts)):
            if says:
                sentence = next(s for s in (template.format(**one.slots) for template in links[link]) if s not in said)
                links[link].append(links[link].pop(0))
                said.add(sentence)
                text += f" {sentence}"
        one.record["description"] = text
        count += 1
    return count


def own_texts(name: str) -> dict[str, list[str]]:
    """Of a file with `# noun` above lines of text."""
    texts: dict[str, list[str]] = {}
    for line in (Path(__file__).parent / name).read_text("utf-8").splitlines():
        if line.startswith("# "):
            texts[line[2:]] = own = []
        else:
            own.append(line)
    return texts


def foreign(chance: random.Random, language: str, number: int) -> Made:
    types, places = LANGUAGES[language]
    kind = types[number % len(types)]
    maker = chance.choice(PEOPLE)
    _, ship = chance.choice(SHIPS)
    place = chance.choice(places)
    year = chance.randint(1790, 1950)
    remarks = chance.sample(REMARKS[language], 2)
    title = chance.choice([OF, FROM, AT])[language]
    slots = {
        "noun": kind.noun,
        "person": maker.name,
        "variant": chance.choice(maker.others),
        "ship": ship,
        "place": place,
    }
    text = " ".join([*(kind.leads if chance.random() < 0.75 else kind.leads[:1]), *remarks]).format(**slots)
    facts = {
        *kind.subjects,
        f"type:{kind.noun}",
        f"kind:{kind.kind}",
        f"lang:{language}",
        f"place:{place}",
        f"person:{maker.name}",
    }
    if "{ship}" in title:
        facts |= {f"ship:{ship}", "titled"}
    elif any("{ship}" in remark for remark in remarks):
        facts.add(f"ship:{ship}")
    record = begun(title.format(**slots), text, kind, place, year, language, chance)
    record["maker"] = maker.name if chance.random() < 0.8 else chance.choice(maker.others)
    return Made(record, facts)


def history(chance: random.Random, number: int) -> Made:
    calling = list(TOLD)[number % len(TOLD)]
    speaker: Person = PEOPLE[(number * 7 + 3) % len(PEOPLE)]
    village = chance.choice(["Saltmere", "Brannock", "Netherstrand", "Tidewick", "Gull Sound", "Eelmouth"])
    _, boat = chance.choice(SHIPS[:4])
    slots = {"father": chance.choice(["my father", "my grandfather", "my uncle"]), "village": village, "boat": boat, "skipper": chance.choice(["the skipper", "old Lowe", "Skipper Frostick"]), "year": str(chance.randint(1895, 1947))}  # fmt: skip
    used: set[str] = set()
    told: list[str] = []
    for subject in TOLD[calling]:
        left = [piece for piece in PIECES[subject] if piece not in used]
        if left:
            piece = chance.choice(left)
            used.add(piece)
            told.append(re.sub(r"(^|[.!?] )([a-z])", lambda m: m[1] + m[2].upper(), piece.format(**slots)))
    text = chance.choice(OPENINGS).format(**slots) + "\n\n" + "\n\n".join(told)
    while len(text.split()) < 610:
        rest = [p for s in ("weather", "food", "winter", "dance", "market") for p in PIECES[s] if p not in used]
        piece = chance.choice(rest)
        used.add(piece)
        text += "\n\n" + piece.format(**slots)
    kind = Type(calling, "oral history", (), ("audio tape", "typescript"), ())
    record = begun(
        f"{calling[0].upper()}{calling[1:]} of {village}: {speaker.name} tells",
        text,
        kind,
        village,
        chance.randint(1958, 1985),
        "en",
        chance,
    )
    record["maker"] = speaker.name
    subjects = {s for s, pieces in PIECES.items() if used & set(pieces)}
    woman = {"woman"} if calling in ("herring girl", "cannery worker", "ferrywoman") else set()
    also = {
        "lighthouse keeper": {"lighthouse", "keeper", "life"},
        "lifeboatman": {"lifeboat", "rescue"},
        "herring girl": {"herring", "gutting"},
        "ferrywoman": {"ferry"},
        "ship's cook": {"food", "ship"},
    }
    facts = {
        "told",
        "kind:oral history",
        "lang:en",
        f"person:{speaker.name}",
        f"place:{village}",
        f"ship:{boat}",
        *subjects,
        *woman,
        *also.get(calling, set()),
    }
    return Made(record, facts)


def begun(title: str, text: str, kind: Type, place: str, year: int, language: str, chance: random.Random) -> Record:
    return {"id": "", "title": title, "description": text, "kind": kind.kind, "materials": list(kind.materials), "place": place, "year": year, "inventory_code": "", "visitor_requests": min(400, int(2 * chance.paretovariate(0.9))), "language": language}  # fmt: skip


def completed(record: Record, facts: set[str], chance: random.Random) -> Record:
    """The record with what every record has: a date of acquisition, a place in the hierarchy, perhaps a picture."""
    found = re.search(r"-(19\d\d)-", record["inventory_code"])
    year = int(found[1]) if found else chance.randint(max(1906, int(record["year"])), 1999)
    day = date(max(1906, year), 1, 1) + timedelta(days=chance.randrange(365))
    paths = PLACES.get(record["place"], (f"Averne Coast / {record['place']}",))
    # Of the first records only the title says for certain what is to be seen.
    seen = facts if record["id"] > f"sm{BY_HAND:04d}" else subjects_of_words(record["title"])
    picture = next((PICTURED[s] for s in PICTURED if s in seen), BY_KIND.get(record["kind"]))
    names = [
        "id",
        "title",
        "description",
        "kind",
        "materials",
        "place",
        "place_path",
        "maker",
        "year",
        "acquired",
        "inventory_code",
        "visitor_requests",
        "language",
        "picture",
    ]
    whole = record | {
        "acquired": day.isoformat(),
        "place_path": chance.choice(paths),
        "picture": f"{picture}.svg" if picture else None,
    }
    return {name: whole[name] for name in names if whole.get(name) is not None}


def code(record: Record, number: int, chance: random.Random) -> str:
    kind = record["kind"]
    year = chance.randint(max(1908, int(record["year"])), 1998)
    match kind:
        case "object":
            return f"SMC-{year}-{60 + number % 90}"
        case "letter":
            return f"L.{150 + number // 7}/{1 + number % 7}"
        case "photograph":
            return f"PH {200 + number:04d}"
        case "chart":
            return f"CH-{41 + number // 20}-{1 + number % 9}"
        case "logbook page":
            return f"LB-{year}-{number % 30:02d}"
        case "oral history":
            return f"OH-{40 + number % 300:03d}"
        case _:
            return f"{CODES[kind]}-{300 + number}"


def subjects_of_words(text: str) -> set[str]:
    return {subject for word, subject in WORDS_OF_SUBJECTS.items() if word in f"{text} ".lower()}


def facts_by_hand(record: Record) -> set[str]:
    facts = subjects_of_words(f"{record['title']} {record['description']}")
    facts |= {f"kind:{record['kind']}", f"lang:{record['language']}", f"place:{record['place']}"}
    return (
        facts
        | ({"told"} if record["kind"] == "oral history" else set())
        | ({"log book"} if record["kind"] == "logbook page" else set())
    )


def holds(made: Made, condition: str) -> bool:
    rest = condition
    for fact in sorted((f for f in made.facts if f in condition), key=len, reverse=True):
        rest = re.sub(rf"(^| ){re.escape(fact)}(?= |$)", " ", rest)
    words = re.findall(r"word:(\w+)", rest)
    text = f"{made.record['title']} {made.record['description']}".lower()
    rest = re.sub(r"word:\w+", "", rest)
    return rest.strip() == "" and all(re.search(rf"\b{word}\b", text) for word in words)


def grades_for(rules: tuple[Rule, ...], all_made: list[Made], chance: random.Random) -> dict[str, int]:
    by_grade: dict[int, list[str]] = {3: [], 2: [], 1: [], 0: []}
    for made in all_made:
        grade = next((grade for grade, condition in sorted(rules, reverse=True) if holds(made, condition)), None)
        if grade is not None:
            by_grade[grade].append(made.record["id"])
    return {
        key: grade
        for grade, keys in by_grade.items()
        for key in sorted(chance.sample(keys, min(MOST[grade], len(keys))))
    }


def hard_negatives(query: str, graded: dict[str, int], all_made: list[Made], rules: tuple[Rule, ...]) -> dict[str, int]:
    """Records that say a word of the query and answer nothing of it."""
    words = [word for word in re.findall(r"\w+", query.lower()) if len(word) > 3]
    found: dict[str, int] = {}
    for made in all_made:
        text = f"{made.record['title']} {made.record['description']}".lower()
        fits = any(holds(made, condition) for _, condition in rules)
        if made.record["id"] not in graded and not fits and any(re.search(rf"\b{word}", text) for word in words):
            found[made.record["id"]] = 0
        if len(found) == 6:
            break
    # Something stands against every query, be it of no kin at all.
    for made in all_made[:: len(all_made) // 8]:
        fits = any(holds(made, condition) for _, condition in rules)
        if len(graded) + len(found) < 10 and not fits and rules and made.record["id"] not in graded:
            found[made.record["id"]] = 0
    return found


def code_queries(all_made: list[Made], chance: random.Random) -> list[tuple[str, str, str, dict[str, int]]]:
    queries: list[tuple[str, str, str, dict[str, int]]] = []
    for kind, write in (("object", str.lower), ("letter", lambda c: c.replace(".", " ")), ("photograph", lambda c: c.replace(" ", "")), ("model", lambda c: c.replace("-", ""))):  # fmt: skip
        made = chance.choice([m for m in all_made[BY_HAND:] if m.record["kind"] == kind])
        own = made.record["inventory_code"]
        lot = own.rsplit("/", 1)[0] if "/" in own else own[:-1]
        near = {
            m.record["id"]: (1 if "/" in own else 0)
            for m in all_made
            if m.record["inventory_code"].startswith(lot) and m is not made
        }
        grades = dict(list(near.items())[:9]) | {made.record["id"]: 3}
        # Codes that begin alike are other things.
        alike = [
            m.record["id"]
            for m in all_made
            if m.record["inventory_code"][:4] == own[:4] and m.record["id"] not in grades
        ]
        grades |= dict.fromkeys(alike[: max(0, 10 - len(grades))], 0)
        queries.append((write(own), f"This very {kind}, by its inventory code {own}.", "code", grades))
    return queries


def judged(settled: int, chance: random.Random) -> list[int]:
    """Three judges' grades whose middle one is the settled grade: two agree, and the third may see it otherwise."""
    strayed = settled
    if chance.random() < 0.22:
        strayed = min(3, max(0, settled + chance.choice([-1, 1])))
    if chance.random() < 0.03:
        strayed = 3 - settled
    grades = [settled, settled, strayed]
    chance.shuffle(grades)
    return grades


def main() -> None:
    by_hand = [json.loads(line) for line in (DEMO / "records.jsonl").read_text("utf-8").splitlines()][:BY_HAND]
    chance = random.Random(1690)
    made = [english(chance, n) for n in range(ENGLISH)]
    made += [foreign(chance, language, n) for language in LANGUAGES for n in range(EACH_LANGUAGE)]
    made += [history(chance, n) for n in range(HISTORIES)]
    chance.shuffle(made)
    taken = {record["inventory_code"] for record in by_hand}
    for number, one in enumerate(made, start=BY_HAND + 1):
        one.record["id"] = f"sm{number:04d}"
        step = number
        while (own := code(one.record, step, chance)) in taken:
            step += 1
        taken.add(own)
        one.record["inventory_code"] = own
    earlier = [
        Made({k: v for k, v in r.items() if k not in ("acquired", "place_path", "picture")}, facts_by_hand(r))
        for r in by_hand
    ]
    everything = [*earlier, *made]
    for one in everything:
        one.record = completed(one.record, one.facts, random.Random(one.record["id"]))

    queries = [json.loads(line) for line in (DEMO / "queries.jsonl").read_text("utf-8").splitlines()][:QUERIES_BY_HAND]
    settled: dict[str, dict[str, int]] = {query["query_id"]: {} for query in queries}
    for line in (DEMO / "grades.txt").read_text("utf-8").splitlines():
        query_id, _, key, grade = line.split()
        if query_id in settled and key <= f"sm{BY_HAND:04d}":
            settled[query_id][key] = int(grade)
    for query in queries:
        settled[query["query_id"]] |= grades_for(EARLIER[query["query_id"]], made, chance)
    wanted = [(text, need, tag, grades_for(rules, everything, chance), rules) for text, need, tag, rules in WANTED]
    wanted += [(*one, ()) for one in code_queries(everything, chance)]
    for text, need, tag, grades, rules in wanted:
        query_id = f"q{len(queries) + 1:02d}"
        queries.append({"query_id": query_id, "query": text, "need": need, "tags": [tag]})
        settled[query_id] = grades | hard_negatives(text, grades, everything, rules)

    reached = {key for grades in settled.values() for key, grade in grades.items() if grade >= 2}
    own_count = give_own_texts(made, reached)

    write_lines("records.jsonl", [json.dumps(one.record, ensure_ascii=False) for one in everything])
    write_lines("queries.jsonl", [json.dumps(counted(query), ensure_ascii=False) for query in queries])
    write_lines("grades.txt", [f"{q} 0 {key} {grade}" for q in settled for key, grade in sorted(settled[q].items())])
    judging = random.Random(41)
    with (DEMO / "judgments.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["query_id", "record", "judge", "grade"])
        for query_id, grades in settled.items():
            for key, grade in sorted(grades.items()):
                for judge, own in zip(JUDGES, judged(grade, judging), strict=True):
                    writer.writerow([query_id, key, judge, own])
    print(
        len(everything),
        "records,",
        len(queries),
        "queries,",
        sum(map(len, settled.values())),
        "grades,",
        own_count,
        "own texts",
    )


def counted(query: dict[str, Any]) -> dict[str, Any]:
    """The query with how often visitors asked it, few of them often, and whether it is locked away."""
    asked = round(6 / random.Random(query["query_id"]).uniform(0.01, 1.0))
    more: dict[str, Any] = {"asked": asked}
    if query["tags"] == ["nothing to find"]:
        more["nothing_to_find"] = True
    if query["query_id"] in LOCKED:
        more["locked"] = True
    if "expectations" in query:
        more["expectations"] = query["expectations"]
    return {key: query[key] for key in ("query_id", "query", "need", "tags")} | more


def write_lines(name: str, lines: list[str]) -> None:
    (DEMO / name).write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
