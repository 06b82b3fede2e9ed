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
    project = visible_projects(person).filter(pk=number).first()
    if project is None:
        raise Missing(f"There is no project {number} for you.")
    return project
