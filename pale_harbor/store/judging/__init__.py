"""Judged sets, judgments, tasks and expectations."""
