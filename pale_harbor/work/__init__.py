"""Work that joins the computation with what is kept: loading, building, searching, measuring."""
