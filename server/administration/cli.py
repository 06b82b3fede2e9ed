"""`lantern-admin`: Django's command line with this application's commands, `backup` and `restore` among them."""

import os
import sys


def main() -> None:
    """Entry point."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
