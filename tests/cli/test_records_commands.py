"""The command line does with records what the page does."""

import json
from pathlib import Path
from subprocess import CompletedProcess
from typing import Any

import psycopg
import pytest

from pale_harbor.settings import ROOT, Settings
from pale_harbor.store.cluster import Cluster
from tests.conftest import Command


def answer(result: "CompletedProcess[str]") -> Any:
    assert result.returncode == 0, result.stderr
    return json.loads(result.stdout)


def told(result: "CompletedProcess[str]") -> str:
    assert result.returncode == 0, result.stderr
    return result.stdout


def refusal(result: "CompletedProcess[str]") -> str:
    assert result.returncode == 1
    assert "Traceback" not in result.stderr
    return result.stderr


@pytest.fixture(scope="module")
def bells(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("bells") / "bells.csv"
    rows = "".join(f"b{i};Fog bell {i};{1800 + i};brass|ash;{'yes' if i % 2 else 'no'}\n" for i in range(60))
    path.write_text(f"nr;name;year;materials;rings\n{rows}b60;Lamp;about 1850;tin;no\nb0;Twice;1;tin;no\nshort\n")
    return path


@pytest.fixture(scope="module")
def loaded(command: Command, bells: Path) -> dict[str, Any]:
    return answer(command("load", str(bells), "--collection", "bells", "--json"))


def test_a_load_tells_what_became_of_every_row(loaded: dict[str, Any]):
    counts = {name: loaded[name] for name in ("read", "added", "updated", "unchanged", "rejected")}
    assert counts == {"read": 63, "added": 61, "updated": 0, "unchanged": 0, "rejected": 2}
    assert [(reject["line"], reject["reason"]) for reject in loaded["rejects"]] == [
        (63, 'the key "b0" was already on line 2 of this file.'),
        (64, "1 cell, but the header has 5."),
    ]


def test_a_preview_stores_nothing(command: Command, bells: Path):
    seen = told(command("load", str(bells), "--collection", "unseen", "--preview"))
    assert "delimited; the key is nr" in seen
    assert "materials: exact, several values parted by '|'" in seen
    assert "rings: flag" in seen
    assert "unseen" not in told(command("collection", "list"))
    plan = answer(command("load", str(bells), "--collection", "unseen", "--preview", "--json"))["plan"]
    assert (plan["delimiter"], plan["key"]) == (";", "nr")


def test_a_type_that_is_set_rejects_what_does_not_fit(command: Command, bells: Path):
    loading = ("load", str(bells), "--collection", "typed", "--key", "nr")
    report = told(command(*loading, "--type", "year=number", "--split", "materials=|"))
    assert "63 read: 60 added, 0 updated, 0 unchanged, 3 rejected." in report
    assert 'line 62: the field "year" must be a number, and here is "about 1850".' in report
    record = answer(command("record", "get", "typed", "b1"))
    assert record == {"nr": "b1", "name": "Fog bell 1", "year": 1801, "materials": ["brass", "ash"], "rings": True}
    rejected = answer(command("collection", "rejected", "typed", "--json"))
    assert {row["raw"] for row in rejected} == {"b60;Lamp;about 1850;tin;no\n", "b0;Twice;1;tin;no\n", "short\n"}


def test_a_field_that_names_only_the_first_rows_is_no_key(command: Command, tmp_path: Path):
    path = tmp_path / "gulls.jsonl"
    rows = [{"id": f"g{number}"} for number in range(1_000)] * 2
    path.write_text("".join(json.dumps(row) + "\n" for row in rows))
    report = told(command("load", str(path), "--collection", "twice"))
    assert "2000 added" in report.replace(",", "").split(":")[1]
    assert "0 rejected" in report


@pytest.mark.parametrize("suffix", ["jsonl", "json", "csv"])
def test_a_key_that_is_left_out_is_the_one_that_the_preview_tells(command: Command, tmp_path: Path, suffix: str):
    rows = [{"id": f"g{number}", "title": "Gull over Skarrow"} for number in range(3)]
    path = tmp_path / f"gulls.{suffix}"
    match suffix:
        case "jsonl":
            path.write_text("".join(json.dumps(row) + "\n" for row in rows))
        case "json":
            path.write_text(json.dumps(rows))
        case _:
            path.write_text("id,title\n" + "".join(f"{row['id']},{row['title']}\n" for row in rows))
    guessed, numbered = f"gulls-{suffix}", f"numbered-{suffix}"
    assert "the key is id" in told(command("load", str(path), "--collection", guessed, "--preview"))
    assert "3 added" in told(command("load", str(path), "--collection", guessed))
    assert answer(command("record", "get", guessed, "g2"))["id"] == "g2"
    assert "3 added" in told(command("load", str(path), "--collection", numbered, "--key", ""))
    assert answer(command("record", "get", numbered, "00000002"))["id"] == "g1"
    # Records that are there say what names them.
    for collection in (guessed, numbered):
        assert "3 unchanged" in told(command("load", str(path), "--collection", collection))
    assert "The key of" in refusal(command("load", str(path), "--collection", numbered, "--key", "id"))


@pytest.mark.parametrize(
    ("options", "problem"),
    [
        (("--type", "yaer=number"), '--type "yaer=number": before = stands a field. There are: nr, name'),
        (("--type", "year=integer"), "a kind is one of text, exact, number, date, flag."),
        (("--format", "xml"), 'There is no format "xml". Known: parquet, scanned_pages, text_files, json_lines'),
        (("--encoding", "utf-99"), 'There is no encoding "utf-99".'),
        (("--key", "id"), 'neither JSON nor delimited text with a column "id"'),
    ],
)
def test_an_option_that_makes_no_sense_is_told(command: Command, bells: Path, options: tuple[str, str], problem: str):
    assert problem in refusal(command("load", str(bells), "--collection", "never", *options))
    assert "never" not in told(command("collection", "list"))


def test_records_are_put_found_and_deleted(command: Command, loaded: dict[str, Any]):
    row = json.dumps({"nr": "n1", "name": "Zephyr gong"})
    assert answer(command("record", "put", "bells", "-", "--json", text=row))["added"] == 1
    found = answer(command("search", "bells", "zephyr", "--json"))
    assert [result["key"] for result in found["results"]] == ["n1"]
    two = f"{row}\n{json.dumps({'nr': 'n2', 'name': 'Gong'})}\n"
    assert told(command("record", "put", "bells", "-", text=two)).startswith("1 added, 1 unchanged; records revision")
    assert told(command("record", "delete", "bells", "n1", "n2", "n3")).startswith("2 deleted")
    assert answer(command("search", "bells", "zephyr", "--json"))["results"] == []
    assert 'no record with the key "n1"' in refusal(command("record", "get", "bells", "n1"))
    assert "every record must be a JSON object" in refusal(command("record", "put", "bells", "-", text="[1]"))
    assert "is not JSON" in refusal(command("record", "put", "bells", "-", text="{"))


@pytest.mark.parametrize("suffix", ["jsonl", "csv", "parquet"])
def test_an_export_loads_as_the_same_records(command: Command, loaded: dict[str, Any], tmp_path: Path, suffix: str):
    path = tmp_path / f"out.{suffix}"
    told(command("export", "bells", str(path)))
    again = answer(command("load", str(path), "--collection", "bells", "--key", "nr", "--replace", "--json"))
    assert (again["added"], again["updated"], again["deleted"], again["rejected"]) == (0, 0, 0, 0)
    assert again["unchanged"] == 61
    assert "does not tell a format" in refusal(command("export", "bells", str(tmp_path / "out.xml")))


def test_collections_are_copied_renamed_and_dropped(command: Command, loaded: dict[str, Any]):
    told(command("collection", "copy", "bells", "second"))
    told(command("collection", "rename", "second", "third"))
    names = {row["name"]: row["records"] for row in answer(command("collection", "list", "--json"))}
    assert names["third"] == names["bells"]
    assert "second" not in names
    assert "nothing was dropped" in refusal(command("collection", "drop", "third", "--confirm", "bells"))
    told(command("collection", "drop", "third", text="third\n"))
    assert "third" not in told(command("collection", "list"))


def test_pictures_are_loaded_from_a_folder(command: Command, loaded: dict[str, Any], tmp_path: Path):
    assert told(command("collection", "pictures", "bells", str(ROOT / "demo/pictures"))) == "18 pictures loaded.\n"
    (tmp_path / "large.png").write_bytes(b"\x89PNG" + b"\x00" * 3_000_000)
    assert "large.png: larger than 2,000,000 bytes." in refusal(
        command("collection", "pictures", "bells", str(tmp_path))
    )
    assert "there is no such folder" in refusal(command("collection", "pictures", "bells", "/nowhere"))


def test_a_folder_of_texts_is_loaded(command: Command, tmp_path: Path):
    (tmp_path / "bell.md").write_text("# Bell\n\nIt rang in fog.")
    (tmp_path / "picture.bin").write_bytes(b"\x00\x01")
    report = answer(command("load", str(tmp_path), "--collection", "texts", "--json"))
    assert (report["added"], report["rejected"]) == (1, 1)
    assert answer(command("record", "get", "texts", "bell.md"))["title"] == "Bell"


def test_a_database_is_read_and_its_password_is_not_kept(command: Command, loaded: dict[str, Any]):
    cluster = Cluster(Settings(command.data).cluster)  # pyright: ignore[reportFunctionMemberAccess]
    address = cluster.keepers_address()
    with psycopg.connect(address) as connection:
        connection.execute(
            "create table if not exists things as select 'a' as nr, 'Fog bell' as title, now() as changed"
        )
    parts = psycopg.conninfo.conninfo_to_dict(address)  # pyright: ignore
    uri = f"postgresql://{parts['user']}:{parts['password']}@{parts['host']}:{parts['port']}/postgres"
    loading = ("load", uri, "--collection", "archive", "--key", "nr", "--changed-at", "changed", "--json")
    assert answer(command(*loading, "--query", "select * from things"))["added"] == 1
    assert answer(command(*loading, "--query", "select * from things"))["unchanged"] == 1
    with psycopg.connect(cluster.address("paleharbor")) as connection:
        kept = str(connection.execute("select source::text from imports").fetchall())
    assert "things" in kept
    assert str(parts["password"]) not in kept
    assert "needs --query" in refusal(command("load", uri, "--collection", "archive"))


def test_a_load_says_what_it_would_do_and_asks_where_much_would_go(command: Command, tmp_path: Path):
    path = tmp_path / "lamps.csv"
    path.write_text("id,title,maker\n" + "".join(f"l{i:02d},Lamp {i},Orla\n" for i in range(20)))
    assert told(command("load", str(path), "--collection", "lamps")).splitlines()[0].startswith("20 read")
    path.write_text("id,title,maker\nl00,Lamp 0,Orla\nl01,Lamp one,\nl20,Lamp 20,Orla\n")
    outlook = "To 20 records: 1 new, 1 changed, 1 unchanged, 18 deleted; emptied: maker 1."
    preview = answer(command("load", str(path), "--collection", "lamps", "--replace", "--preview", "--json"))
    assert preview["outlook"] == {
        "records": 20,
        "added": 1,
        "updated": 1,
        "unchanged": 1,
        "deleted": 18,
        "emptied": {"maker": 1},
    }
    assert outlook in told(command("load", str(path), "--collection", "lamps", "--replace", "--preview"))
    said = refusal(command("load", str(path), "--collection", "lamps", "--replace"))
    assert "would delete 18 of 20 records of lamps; nothing was done. Give --deletes 18" in said
    refusal(command("load", str(path), "--collection", "lamps", "--replace", "--deletes", "17"))
    refusal(command("load", str(path), "--collection", "lamps", "--replace", "--json"))
    done = told(command("load", str(path), "--collection", "lamps", "--replace", "--deletes", "18"))
    assert done.splitlines() == [outlook, "3 read: 1 added, 1 updated, 1 unchanged, 18 deleted, 0 rejected."]
    listed = told(command("collection", "imports", "lamps")).splitlines()
    # A preview is none of them.
    assert [line.split("  ")[3] for line in listed] == ["done", "cancelled", "cancelled", "cancelled", "done"]
    assert told(command("collection", "undo-import", "lamps")) == "lamps.csv is undone: 19 restored, 1 removed.\n"
    assert 'Lamp 1"' in told(command("record", "get", "lamps", "l01"))
    number = listed[-1].split()[0]
    # A record that was given back is as the first import left it, but for one that somebody changed since.
    record = tmp_path / "l07.json"
    record.write_text('{"id": "l07", "title": "Harbor lamp"}')
    told(command("record", "put", "lamps", str(record)))
    assert told(command("collection", "undo-import", "lamps", number)).splitlines() == [
        "lamps.csv is undone: 0 restored, 19 removed.",
        "1 was changed or deleted since, and stays as it is.",
    ]
    assert "no import 999" in refusal(command("collection", "undo-import", "lamps", "999"))


def test_a_file_with_fewer_fields_fills_in(command: Command, tmp_path: Path):
    path = tmp_path / "shells.csv"
    path.write_text("id,title,maker\ns1,Shell,Orla\n")
    told(command("load", str(path), "--collection", "shells"))
    path.write_text("id,maker\ns1,Tamsin\n")
    assert "1 changed" in told(command("load", str(path), "--collection", "shells", "--fill-in"))
    path.write_text("id,maker\ns1,\n")
    emptying = answer(command("load", str(path), "--collection", "shells", "--json"))
    assert (emptying["updated"], emptying["emptied"]) == (1, {"maker": 1, "title": 1})
    told(command("collection", "undo-import", "shells"))
    assert answer(command("record", "get", "shells", "s1")) == {"id": "s1", "title": "Shell", "maker": "Tamsin"}


def test_deleted_records_come_back_by_key_or_revision(command: Command, tmp_path: Path):
    path = tmp_path / "nets.csv"
    path.write_text("id,title\nn1,Net\nn2,Net\nn3,Net\n")
    told(command("load", str(path), "--collection", "nets"))
    assert told(command("record", "deleted", "nets")) == "No record is deleted.\n"
    told(command("record", "delete", "nets", "n1", "n2"))
    told(command("record", "delete", "nets", "n3"))
    assert [line.split("  ")[::2] for line in told(command("record", "deleted", "nets")).splitlines()] == [
        ["revision 3", "1 record"],
        ["revision 2", "2 records"],
    ]
    assert told(command("record", "restore", "nets", "--revision", "2")).startswith("2 added")
    assert told(command("record", "restore", "nets", "n3")).startswith("1 added")
    assert "Tell either" in refusal(command("record", "restore", "nets"))
    assert "Tell either" in refusal(command("record", "restore", "nets", "n3", "--revision", "2"))
