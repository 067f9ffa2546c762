"""Who changed what is kept for as long as the settings say, and no longer."""

from pale_harbor.store.people.changes import ChangesWanted, changes, note_change
from pale_harbor.work.server import Server
from pale_harbor.work.workbench import Workbench


def noted(bench: Workbench) -> list[str]:
    with bench.pool.connection() as connection:
        return [one.about for one in changes(connection, ChangesWanted(), 10)]


def test_what_is_older_than_the_days_is_forgotten(bench: Workbench):
    with bench.pool.connection() as connection:
        for about, age in (("younger", "29 days 23 hours"), ("older", "30 days 1 hour"), ("now", "0 days")):
            note_change(connection, None, "put_ranker", about)
            connection.execute("update changes set at = now() - %s::interval where about = %s", [age, about])
    Server(bench).forget_old_changes(30)
    assert noted(bench) == ["now", "younger"]


def test_a_server_forgets_as_it_begins_and_only_where_it_is_told_to(bench: Workbench):
    with bench.pool.connection() as connection:
        note_change(connection, None, "put_ranker", "long ago")
        connection.execute("update changes set at = now() - interval '50 years'")
    for days, left in ((None, ["long ago"]), (36_500, ["long ago"]), (7, [])):
        server = Server(bench, changes_days=days)
        server.begin()
        server.end()
        assert noted(bench) == left
