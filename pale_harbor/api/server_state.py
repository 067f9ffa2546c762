"""What a running server holds, handed to the endpoints."""

from typing import Annotated

from fastapi import Depends, Request

from pale_harbor.work.workbench import Workbench


def _workbench(request: Request) -> Workbench:
    return request.app.state.workbench


Bench = Annotated[Workbench, Depends(_workbench)]
