"""Which rankers use a saved chain, in which version."""

from dataclasses import dataclass

from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.naming import chain_texts
from pale_harbor.store.chains.chains import latest_chains
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.ranking.rankers import all_rankers
from pale_harbor.work.chains.saved_parts import named_chain
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True)
class ChainUse:
    """A ranker's newest version that reads fields through a saved chain.

    chain_version: the one it reads; fields: each once, in the ranker's order.
    """

    ranker: str
    ranker_version: int
    chain_version: int
    fields: list[str]


@dataclass(frozen=True, slots=True)
class ChainInUse:
    """The newest version of a saved chain, and the rankers that use the chain, in whichever version."""

    name: str
    version: int
    notation: str
    used_by: list[ChainUse]


def chains_in_use(workbench: Workbench, collection_name: str) -> list[ChainInUse]:
    """The newest version of each saved chain, and the rankers that use the chain."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        chains = latest_chains(connection, collection.id)
        rankers = all_rankers(connection, collection.id)
    newest = {ranker.name: ranker for ranker in reversed(rankers)}
    uses: dict[str, list[ChainUse]] = {}
    for ranker in newest.values():
        fields: dict[tuple[str, int], list[str]] = {}
        for field, text in chain_texts(ranker_document(ranker.document)):
            named = named_chain(text)
            if named is not None:
                meant = named.version or ranker.chain_versions.get(named.name, 0)
                own = fields.setdefault((named.name, meant), [])
                if field not in own:
                    own.append(field)
        for (name, version), own in fields.items():
            uses.setdefault(name, []).append(ChainUse(ranker.name, ranker.version, version, own))
    return [
        ChainInUse(
            chain.name, chain.version, chain.notation, sorted(uses.get(chain.name, []), key=lambda use: use.ranker)
        )
        for chain in chains
    ]
