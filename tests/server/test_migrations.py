"""Migrations of the database that move what people have."""

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from server.projects.models import Project
from server.projects.reports import report_of


@pytest.mark.django_db(transaction=True)
def test_what_was_amiss_with_an_asset_goes_to_its_file():
    number = get_user_model().objects.create_user("ada").pk
    scene = {"asset": {"file": {"sha256": "a" * 64, "name": "x.glb"}, "name": "X"}}
    MigrationExecutor(connection).migrate([("projects", "0008_documents"), ("intake", "0002_start")])
    try:
        old = MigrationExecutor(connection).loader.project_state([("projects", "0008_documents")]).apps
        before = old.get_model("projects", "Project").objects
        before.create(owner_id=number, name="Odd", scene=scene, problems=["its skin is left out"])
        before.create(owner_id=number, name="Empty", scene={"asset": None}, problems=["nothing is there"])
        before.create(owner_id=number, name="Fine", scene=scene)
    finally:
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())
    found = {project.name: list(report_of(project).problems) for project in Project.objects.all()}
    assert found == {"Odd": ["its skin is left out"], "Empty": ["nothing is there"], "Fine": []}
