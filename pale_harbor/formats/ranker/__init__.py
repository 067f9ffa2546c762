"""A ranker as a document: what may stand in it, the ranker it describes, differences in words, tables of its knobs.

All of it follows from the knobs that the parts of a ranker declare (core/knobs.py).
"""
