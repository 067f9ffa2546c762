"""What a running server holds, handed to the endpoints: without a thread of its own, since nothing is waited for."""

from typing import Annotated

from fastapi import Depends, Request

from pale_harbor.work.chains.consequences import Reckonings
from pale_harbor.work.imports.uploads import Uploads
from pale_harbor.work.server import Server
from pale_harbor.work.workbench import Workbench


async def _server(request: Request) -> Server:
    return request.app.state.server


async def _workbench(request: Request) -> Workbench:
    return request.app.state.server.bench


async def _uploads(request: Request) -> Uploads:
    return request.app.state.server.uploads


async def _reckonings(request: Request) -> Reckonings:
    return request.app.state.server.reckonings


Serving = Annotated[Server, Depends(_server)]
Bench = Annotated[Workbench, Depends(_workbench)]
Reckoned = Annotated[Reckonings, Depends(_reckonings)]
UploadFolder = Annotated[Uploads, Depends(_uploads)]
