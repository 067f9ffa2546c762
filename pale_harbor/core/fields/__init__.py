"""Fields: the values of records as columns, filters and facets over them."""

from pale_harbor.core.fields.column import FieldColumn, column_of, day_of, text_of
from pale_harbor.core.fields.facets import facet
from pale_harbor.core.fields.filters import Filter, Has, OneOf, Within, passing_records

__all__ = [
    "FieldColumn",
    "Filter",
    "Has",
    "OneOf",
    "Within",
    "column_of",
    "day_of",
    "facet",
    "passing_records",
    "text_of",
]
