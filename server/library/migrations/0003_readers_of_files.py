from django.db import migrations


def _named(value):
    """Digests of the files that a document names."""
    if isinstance(value, dict):
        if value.keys() == {"sha256", "name"} and isinstance(value["sha256"], str):
            yield value["sha256"]
        value = list(value.values())
    if isinstance(value, list):
        for inner in value:
            yield from _named(inner)


def grant(apps, schema_editor):
    """Whoever has a file in a project or on a shelf goes on having it; what is built in is everybody's."""
    files = {stored.sha256: stored for stored in apps.get_model("projects", "StoredFile").objects.all()}
    for model in ("EnvironmentItem", "ProfileItem"):
        for item in apps.get_model("library", model).objects.select_related("file"):
            if item.owner_id is None:
                item.file.is_public = True
                item.file.save(update_fields=["is_public"])
            else:
                item.file.readers.add(item.owner_id)
    for project in apps.get_model("projects", "Project").objects.all():
        for digest in set(_named(project.scene)) & files.keys():
            files[digest].readers.add(project.owner_id)


class Migration(migrations.Migration):
    dependencies = [("library", "0002_profiles"), ("projects", "0005_file_readers")]
    operations = [migrations.RunPython(grant, migrations.RunPython.noop)]
