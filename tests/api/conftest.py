"""The API on a real database that holds the demo."""

from collections.abc import Generator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from pale_harbor.api.app import make_app
from pale_harbor.work.demo import load_demo
from pale_harbor.work.workbench import Workbench


@pytest.fixture(scope="module")
def demo(cluster: Any, tmp_path_factory: pytest.TempPathFactory) -> Generator[Workbench]:
    from pale_harbor.store.database import make_database, open_pool

    make_database(cluster, "api_demo")
    with open_pool(cluster.address("api_demo")) as pool:
        bench = Workbench(pool, tmp_path_factory.mktemp("indexes"))
        load_demo(bench)
        yield bench


@pytest.fixture(scope="module")
def client(demo: Workbench) -> Generator[TestClient]:
    page = Path("/nonexistent")
    with TestClient(make_app(demo, page), base_url="http://127.0.0.1:7340", raise_server_exceptions=False) as opened:
        yield opened
