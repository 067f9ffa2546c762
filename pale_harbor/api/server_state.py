"""What a running server holds, handed to the endpoints: without a thread of its own, since nothing is waited for."""

from typing import Annotated

from fastapi import Depends, Request

from pale_harbor.work.chains.consequences import Reckonings
from pale_harbor.work.imports.runner import ImportRunner
from pale_harbor.work.imports.uploads import Uploads
from pale_harbor.work.spaces.runner import SpaceRunner
from pale_harbor.work.workbench import Workbench


async def _workbench(request: Request) -> Workbench:
    return request.app.state.workbench


async def _runner(request: Request) -> ImportRunner:
    return request.app.state.runner


async def _uploads(request: Request) -> Uploads:
    return request.app.state.uploads


async def _spaces(request: Request) -> SpaceRunner:
    return request.app.state.spaces


async def _reckonings(request: Request) -> Reckonings:
    return request.app.state.reckonings


Bench = Annotated[Workbench, Depends(_workbench)]
Runner = Annotated[ImportRunner, Depends(_runner)]
Spaces = Annotated[SpaceRunner, Depends(_spaces)]
Figures = Annotated[Reckonings, Depends(_reckonings)]
UploadFolder = Annotated[Uploads, Depends(_uploads)]
