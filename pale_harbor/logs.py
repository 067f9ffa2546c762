"""Structured logs: one JSON object a line, on standard error."""

import logging
import sys

import structlog


def set_up_logs(*, as_server: bool) -> None:
    """Logs of this process as JSON lines, uvicorn's too. A command tells only what it must warn of."""
    level = logging.INFO if as_server else logging.WARNING
    shared: list[structlog.typing.Processor] = [
        structlog.stdlib.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    structlog.configure(
        processors=[*shared, structlog.processors.format_exc_info, structlog.processors.JSONRenderer()],
        wrapper_class=structlog.make_filtering_bound_logger(level),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
    formatter = structlog.stdlib.ProcessorFormatter(
        processor=structlog.processors.JSONRenderer(),
        foreign_pre_chain=[*shared, structlog.processors.format_exc_info],
    )
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(formatter)
    logging.basicConfig(handlers=[handler], level=max(level, logging.WARNING), force=True)
