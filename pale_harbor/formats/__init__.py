"""Files read and written: records, rankers, judged sets, runs, indexes."""
