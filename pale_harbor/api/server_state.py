"""What a running server holds, handed to the endpoints."""

from typing import Annotated

from fastapi import Depends, Request

from pale_harbor.work.consequences import Reckonings
from pale_harbor.work.import_runner import ImportRunner
from pale_harbor.work.space_runner import SpaceRunner
from pale_harbor.work.uploads import Uploads
from pale_harbor.work.workbench import Workbench


def _workbench(request: Request) -> Workbench:
    return request.app.state.workbench


def _runner(request: Request) -> ImportRunner:
    return request.app.state.runner


def _uploads(request: Request) -> Uploads:
    return request.app.state.uploads


def _spaces(request: Request) -> SpaceRunner:
    return request.app.state.spaces


def _reckonings(request: Request) -> Reckonings:
    return request.app.state.reckonings


Bench = Annotated[Workbench, Depends(_workbench)]
Runner = Annotated[ImportRunner, Depends(_runner)]
Spaces = Annotated[SpaceRunner, Depends(_spaces)]
Figures = Annotated[Reckonings, Depends(_reckonings)]
UploadFolder = Annotated[Uploads, Depends(_uploads)]
