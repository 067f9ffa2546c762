"""Pale Harbor: a workbench for search relevance, where no change is made blind."""

from pale_harbor.machine_code import choose_folder

__version__ = "0.1.0"

choose_folder()
