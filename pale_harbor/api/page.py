"""The built page: its files compressed when it was built, kept for good by the browser, since their names tell their
content; its first file asked for anew at every visit."""

from pathlib import Path
from secrets import token_urlsafe
from typing import Final

import structlog
from fastapi import FastAPI, HTTPException, Request
from fastapi.responses import FileResponse, HTMLResponse
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import Scope

from pale_harbor.api.guard import CONTENT_POLICY

FOR_GOOD: Final = "public, max-age=31536000, immutable"
# In the order of what is smaller.
_COMPRESSED: Final = (("br", ".br"), ("gzip", ".gz"))


class CompressedFiles(StaticFiles):
    """Files, in the smallest form that the browser reads and the build has made."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        accepted = [one.split(";")[0].strip() for one in Headers(scope=scope).get("accept-encoding", "").split(",")]
        plain, _ = self.lookup_path(path)
        for encoding, ending in _COMPRESSED:
            compressed, found = self.lookup_path(path + ending)
            asked_for = encoding in accepted and scope["method"] in ("GET", "HEAD")
            if asked_for and found is not None and plain:
                response = FileResponse(
                    compressed, headers={"Content-Encoding": encoding}, media_type=_media_type(path), stat_result=found
                )
                break
        else:
            response = await super().get_response(path, scope)
        response.headers["Cache-Control"] = FOR_GOOD
        response.headers["Vary"] = "Accept-Encoding"
        return response


def serve_page(app: FastAPI, page: Path, below: str = "") -> None:
    """The page on every address that is not the API's. below: the path that a proxy has before them."""
    if not (page / "index.html").exists():
        structlog.get_logger().warning("the page is not built", folder=str(page))
        return
    app.mount("/assets", CompressedFiles(directory=page / "assets"))
    # It is asked for at any depth: its files are named from the top.
    first = (page / "index.html").read_text("utf-8").replace('="./', f'="{below}/')

    @app.get("/harbor-search.js", include_in_schema=False)
    @app.get("/harbor-page.js", include_in_schema=False)
    async def element(request: Request) -> Response:  # pyright: ignore[reportUnusedFunction]
        """The search box for pages of other sites, which may all load it, and what it fetches to show a scanned page:
        they do nothing without a key."""
        answer = await CompressedFiles(directory=page).get_response(Path(request.url.path).name, request.scope)
        answer.headers["Access-Control-Allow-Origin"] = "*"
        answer.headers["Cross-Origin-Resource-Policy"] = "cross-origin"
        # Its name stays while what it says is renewed.
        answer.headers["Cache-Control"] = "public, max-age=300"
        return answer

    @app.get("/visit/{collection}", include_in_schema=False)
    async def visit(collection: str) -> Response:  # pyright: ignore[reportUnusedFunction]
        """The visitor's page, which reads its address itself and asks nothing but the search endpoint."""
        shown = (page / "visit.html").read_text("utf-8").replace('="./', f'="{below}/')
        # The viewer of scanned pages puts a style into the page.
        nonce = token_urlsafe(16)
        told = shown.replace("<head>", f'<head>\n    <meta name="style-nonce" nonce="{nonce}" />', 1)
        policy = f"{CONTENT_POLICY}; style-src 'self' 'nonce-{nonce}'"
        return HTMLResponse(told, headers={"Cache-Control": "no-store", "Content-Security-Policy": policy})

    @app.get("/{path:path}", include_in_schema=False)
    async def place(path: str) -> Response:  # pyright: ignore[reportUnusedFunction]
        """The page, whatever the place: it reads its address itself."""
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such endpoint.")
        if path == "favicon.svg" and (page / path).exists():
            return FileResponse(page / path)
        # Another word with every visit: styles that say it are the page's own, such as its editor makes.
        nonce = token_urlsafe(16)
        return HTMLResponse(
            first.replace(
                "<head>",
                f'<head>\n    <meta name="style-nonce" nonce="{nonce}" />\n'
                f'    <meta name="base-path" content="{below}" />',
                1,
            ),
            headers={
                "Cache-Control": "no-store",
                # Where a text is typed into, the browser itself writes attributes of style.
                "Content-Security-Policy": (
                    f"{CONTENT_POLICY}; style-src 'self' 'nonce-{nonce}'; style-src-attr 'unsafe-inline'"
                ),
            },
        )


def _media_type(path: str) -> str:
    return {".js": "text/javascript", ".css": "text/css", ".svg": "image/svg+xml"}.get(
        Path(path).suffix, "application/octet-stream"
    )
