"""What is told of a collection ten times as large, held against one that is."""

import tempfile
from pathlib import Path
from typing import Any, Final

import orjson

from benchmarks.figures import Figures
from benchmarks.synthetic import synthetic
from pale_harbor.formats.judged_files import FileJudgment, JudgedQuery
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.work.growing.estimating import AtSize, growth_now
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.running.processes import Processes
from pale_harbor.work.workbench import Workbench
from tests.conftest import NO_FSYNC, make_data_folder

_QUERIES: Final = 60


def growth_figures(records: int = 20_000) -> list[Figures]:
    """Each figure as it was estimated from a tenth of the records, as it is, and the one in shares of the other."""
    made = synthetic(10 * records, _QUERIES)
    cluster = Cluster(make_data_folder() / "database", NO_FSYNC)
    cluster.start()
    try:
        make_database(cluster, "growing")
        address = cluster.address("growing")
        with open_pool(address) as pool, tempfile.TemporaryDirectory() as folder:
            bench = Workbench(pool, Path(folder) / "indexes", processes=Processes(address))
            small = _told(bench, Path(folder), "small", made.records[:records], made.queries)
            large = _told(bench, Path(folder), "large", made.records, made.queries)
    finally:
        cluster.stop(at_once=True)
    told, there = small[1], large[0]
    return [
        {"figure": name, "estimated": round(one, 3), "is": round(other, 3), "estimate of it": round(one / other, 2)}
        for name, one, other in (
            ("index MB", told.index_bytes / 1e6, there.index_bytes / 1e6),
            ("terms", float(told.terms), float(there.terms)),
            ("build s", told.build_s, there.build_s),
            ("looking up p50 ms", told.times_ms.looking_up_p50, there.times_ms.looking_up_p50),
            ("ranking p50 ms", told.times_ms.ranking_p50, there.times_ms.ranking_p50),
            ("all p50 ms", told.times_ms.all_p50, there.times_ms.all_p50),
            ("all p95 ms", told.times_ms.all_p95, there.times_ms.all_p95),
        )
    ]


def _told(bench: Workbench, folder: Path, name: str, records: list[str], queries: list[str]) -> list[AtSize]:
    rows: list[dict[str, Any]] = [{"id": f"r{number:07d}", "text": text} for number, text in enumerate(records)]
    path = folder / f"{name}.jsonl"
    path.write_bytes(b"".join(orjson.dumps(row) + b"\n" for row in rows))
    import_now(bench.pool, name, FileSource(Source(path)), ImportPlan(key="id"))
    asked = [JudgedQuery(query_id=f"q{number}", query=query, need="") for number, query in enumerate(queries)]
    grades = [FileJudgment(query_id=one.query_id, record="r0000001", grade=1, judge="nobody") for one in asked]
    put_judged_set(bench, name, "asked", asked, grades, locked_share=0)
    told = growth_now(bench, name, "asked", RankerPlan())
    assert told.estimate is not None, told.problem
    return told.estimate.sizes
