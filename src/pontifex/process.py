"""What every process of the product sets up for itself: its log, and how often cycles are collected."""

from __future__ import annotations

import gc
import logging
import sys

import structlog


def collect_seldom() -> None:
    """Let the collector of cycles run seldom: analyses make many values and hardly a cycle."""
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)


def set_up_logging(verbose: bool) -> None:
    """Log events as lines of key and value on standard error; requests only when asked for more."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.KeyValueRenderer(key_order=["timestamp", "level", "event"]),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.DEBUG if verbose else logging.INFO),
        logger_factory=structlog.WriteLoggerFactory(file=sys.stderr),
    )
