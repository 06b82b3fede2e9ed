import django.db.models.deletion
from django.db import migrations, models


def move_problems(apps, schema_editor):
    """What was amiss with an asset belongs to its file, which a project may exchange."""
    Project, AssetReport = (apps.get_model("projects", name) for name in ("Project", "AssetReport"))
    for project in Project.objects.exclude(problems=[]).iterator(chunk_size=50):
        asset = project.scene.get("asset") or {}
        digest = (asset.get("file") or {}).get("sha256", "")
        AssetReport.objects.create(project=project, sha256=digest, problems=project.problems)


class Migration(migrations.Migration):

    dependencies = [
        ('projects', '0008_documents'),
    ]

    operations = [
        migrations.CreateModel(
            name='AssetReport',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sha256', models.CharField(max_length=64)),
                ('problems', models.JSONField(default=list)),
                ('findings', models.JSONField(default=list)),
                ('project', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reports', to='projects.project')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('project', 'sha256'), name='one_report_a_file')],
            },
        ),
        migrations.RunPython(move_problems, migrations.RunPython.noop),
        migrations.RemoveField(model_name='project', name='problems'),
    ]
