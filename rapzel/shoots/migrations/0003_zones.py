import rapzel.ui.zones
from django.db import migrations, models
from django.db.models import Q


def hours_as_they_were_typed(apps, schema_editor):
    """Hours were typed and shown in UTC until now: shoots that have some keep that clock, until another is chosen."""
    with_hours = Q(starts_at__isnull=False) | Q(ends_at__isnull=False)
    apps.get_model("shoots", "Shoot").objects.filter(with_hours).update(zone="UTC")


class Migration(migrations.Migration):

    dependencies = [
        ('shoots', '0002_redo'),
    ]

    operations = [
        migrations.AddField(
            model_name='shoot',
            name='zone',
            field=models.CharField(blank=True, max_length=64, validators=[rapzel.ui.zones.require_known], verbose_name='time zone'),
        ),
        migrations.RunPython(hours_as_they_were_typed, migrations.RunPython.noop),
    ]
