"""The command line: all that the page does, and setting up."""
