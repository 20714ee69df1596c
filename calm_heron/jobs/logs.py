"""Logs in one line of JSON each, for installations whose logs are collected (``CALM_HERON_LOG=json``)."""

import json
import logging
from datetime import UTC, datetime


class JsonLines(logging.Formatter):
    """A record as one line: when (UTC), how grave, who says it, what, and the traceback where there is one."""

    def format(self, record: logging.LogRecord) -> str:
        told = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "logger": record.name,
            "message": record.getMessage(),
        }
        if record.exc_info:
            told["trace"] = self.formatException(record.exc_info)
        return json.dumps(told, ensure_ascii=False)
