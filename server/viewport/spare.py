"""`python -m server.viewport.spare`: a render host that loads all it needs behind the one that is in use.

Loading takes three seconds of one core: at the same priority it would make the pictures of the host in use late.
"""

import importlib

from server.runtime.priority import run_far_behind


def main() -> None:
    """Entry point."""
    run_far_behind(lambda: importlib.import_module("server.viewport.host"))
    from server.viewport.host import serve

    serve()


if __name__ == "__main__":
    main()
