import django.utils.timezone
from django.db import migrations, models
from django.db.models import F


def since_they_were_made(apps, _):
    """Prints that are there wait since they were asked for."""
    apps.get_model("prints", "Print").objects.update(queued=F("created"))


class Migration(migrations.Migration):
    dependencies = [("prints", "0007_glimpses")]

    operations = [
        migrations.AddField("print", "queued", models.DateTimeField(default=django.utils.timezone.now)),
        migrations.RunPython(since_they_were_made, migrations.RunPython.noop),
    ]
