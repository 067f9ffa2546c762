"""Pictures over HTTP."""

from fastapi import Response

from pale_harbor.store.records.pictures import Picture


def as_answer(picture: Picture) -> Response:
    """A picture as it goes out. An SVG could hold a script: it may load and run nothing, wherever it is opened."""
    policy = "default-src 'none'; style-src 'unsafe-inline'; sandbox"
    return Response(
        picture.content,
        media_type=picture.media_type,
        headers={"Content-Security-Policy": policy, "Cache-Control": "max-age=300"},
    )
