"""Where the log goes: lines for people on standard error, and lines of JSON in files, or instead of them.

Each process has a file of its own, since two cannot turn one over. What is about who may what is in a file apart.
"""

import os
from pathlib import Path
from typing import Any

PROCESS = "LANTERN_PROCESS"
"""The variable that names a process; the launcher sets it."""
FILE_BYTES, FILES_KEPT = 16 << 20, 4


def logging_settings(folder: Path) -> dict[str, Any]:
    """Configuration for `logging.config`; with LANTERN_LOG=stderr everything is JSON on standard error alone."""
    folder.mkdir(parents=True, exist_ok=True)
    only_stderr = os.environ.get("LANTERN_LOG") == "stderr"
    console = {"class": "logging.StreamHandler", "formatter": "json" if only_stderr else "line"}
    log, security = ("console", "console") if only_stderr else ("log", "security")
    handlers: dict[str, Any] = {"console": console}
    if not only_stderr:
        handlers["log"] = _file(folder / f"{os.environ.get(PROCESS, 'other')}.log")
        handlers["security"] = _file(folder / "security.log")
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"},
            "json": {
                "()": "pythonjsonlogger.json.JsonFormatter",
                "fmt": "{asctime}{levelname}{name}{message}",
                "style": "{",
                "rename_fields": {"asctime": "time", "levelname": "level", "name": "logger"},
            },
        },
        "handlers": handlers,
        "root": {"handlers": list(dict.fromkeys(("console", log))), "level": "WARNING"},
        "loggers": {
            "server": {"level": "INFO"},
            "server.requests": {"handlers": [log], "propagate": False},
            "server.security": {"handlers": [security]} if not only_stderr else {},
        },
    }


def _file(path: Path) -> dict[str, Any]:
    return {
        "class": "logging.handlers.RotatingFileHandler",
        "filename": str(path),
        "maxBytes": FILE_BYTES,
        "backupCount": FILES_KEPT,
        "formatter": "json",
        "delay": True,
    }
