"""Structured logs: one JSON object a line, on standard error or in a file that is kept short.

Whatever happens to the log, the work goes on: a full disk is no reason to answer nobody.
"""

import logging
import os
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import Final

import structlog

# A server's log and so many before it are kept.
LARGEST_LOG: Final = 10_000_000
KEPT_LOGS: Final = 4
LOG_FILE: Final = "PALEHARBOR_LOG_FILE"


def set_up_logs(*, as_server: bool, file: Path | None = None, level_named: str | None = None) -> None:
    """Logs of this process as JSON lines, other packages' too. A command tells only what it must warn of.

    file: where they go instead of standard error; a new one is begun in time. level_named: what is told of, such as
    "warning"; as is usual where it is None.
    """
    level = logging.INFO if as_server else logging.WARNING
    if level_named is not None:
        level = logging.getLevelNamesMapping()[level_named.upper()]
    shared: list[structlog.typing.Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.stdlib.LoggerFactory(),
    )
    formatter = structlog.stdlib.ProcessorFormatter(
        processors=[
            structlog.stdlib.ProcessorFormatter.remove_processors_meta,
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
        foreign_pre_chain=shared,
    )
    handler = _in_file(file) if file is not None else logging.StreamHandler(sys.stderr)
    handler.setFormatter(formatter)
    logging.basicConfig(handlers=[handler], level=max(level, logging.WARNING), force=True)
    logging.getLogger("pale_harbor").setLevel(level)
    # A log that cannot be written is passed over.
    logging.raiseExceptions = False


def log_file_named() -> Path | None:
    """The file that the environment names for the server's log, None for standard error."""
    named = os.environ.get(LOG_FILE)
    return Path(named) if named else None


def _in_file(file: Path) -> logging.Handler:
    file.parent.mkdir(parents=True, exist_ok=True)
    return RotatingFileHandler(file, maxBytes=LARGEST_LOG, backupCount=KEPT_LOGS, encoding="utf-8", delay=True)
