"""Who may see and change a project: its owner and superusers."""

from django.db.models import QuerySet

from server.errors import Missing
from server.projects.models import Project
from server.projects.storage import Person


def visible_projects(person: Person) -> QuerySet[Project]:
    """Projects that a person may open and change."""
    if not person.is_authenticated:
        return Project.objects.none()
    if getattr(person, "is_superuser", False):
        return Project.objects.all()
    return Project.objects.filter(owner=person)


def project_for(person: Person, number: int) -> Project:
    """One project of a person. Raises Missing when it is not there or not theirs."""
    return _first(visible_projects(person), number)


def held_project(person: Person, number: int, *deferred: str) -> Project:
    """One project of a person that nobody else changes or removes before the transaction ends, without some columns.

    Raises Missing when it is not there or not theirs.
    """
    return _first(visible_projects(person).select_for_update().defer(*deferred), number)


def _first(projects: QuerySet[Project], number: int) -> Project:
    project = projects.filter(pk=number).first()
    if project is None:
        raise Missing(f"There is no project {number} for you.")
    return project
