"""`python -m tests.browser.plain_demo`: the demo of a running application in the light of its studio.

What tests and benchmarks look for was chosen in that light; the light that the demo opens with is looked at by itself.
`LANTERN_DATA` says which application it is.
"""

import os

import django


def main() -> None:
    """Give the demo's document the light of a studio, without a step of undo."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
    django.setup()
    from demo.project import PROJECT_NAME, demo_scene
    from server.projects.models import Project

    changed = Project.objects.filter(name=PROJECT_NAME).update(scene=demo_scene()[0].plain())
    assert changed == 1, f"{changed} projects are called {PROJECT_NAME}"


if __name__ == "__main__":
    main()
