"""The computation: text, index, ranking, measures. No files, no web, no database, no clock."""
