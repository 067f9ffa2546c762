"""Names in documents."""

from typing import Annotated

from pydantic import Field

FieldName = Annotated[str, Field(min_length=1, max_length=200)]
