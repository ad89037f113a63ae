import django.db.models.lookups
from django.db import migrations, models

# What was a column of its own is a figure of its class, by the same name.
FIGURES = {
    'camera': (
        'curtain_travel_s', 'curtain_travel_sd_s', 'drives', 'effective_f_number',
        'fastest_shutter_s', 'first_curtain_s', 'first_edge', 'lag_jitter_s', 'lag_provenance',
        'lag_s', 'lags_s', 'mirror_s', 'pixels_high', 'pixels_wide', 'sensor_height_mm',
        'sensor_width_mm', 'shutter', 'sync_speed_s', 'wake_s',
    ),
    'lens': (
        'focal_length_mm', 'nearest_m', 'widest_f_number',
    ),
    'modifier': (
        'loss_stops', 'source_size_m',
    ),
    'strobe': (
        'battery_pops', 'circuit', 'energy_ws', 'full_recycle_s', 'guide_number_m', 'guide_numbers',
        'guide_provenance', 'hss', 'hss_loss_stops', 'min_power', 'price', 'recycle_floor_s',
        'thermal_pops_per_min',
    ),
    'trigger': (
        'jitter_s', 'kind', 'lag_provenance', 'lag_s', 'lags_s', 'lockout_s', 'resolution_s',
    ),
}


def moved(model, names):
    """The columns of a kind into its figures, and back."""
    table = f'kit_{model}'
    columns = ', '.join(names)
    pairs = ', '.join(f"'{name}', {name}" for name in names)
    return migrations.RunSQL(
        f'UPDATE {table} SET figures = jsonb_build_object({pairs})',
        f'UPDATE {table} SET ({columns}) = '
        f'(SELECT {columns} FROM jsonb_populate_record(NULL::{table}, {table}.figures))',
    )


def constraint(model):
    is_object = django.db.models.lookups.Exact(
        models.Func('figures', function='jsonb_typeof'), models.Value('object')
    )
    return models.CheckConstraint(condition=is_object, name=f'{model}_figures_are_an_object')


def field():
    return models.JSONField(default=dict, verbose_name='by the names of its class')


class Migration(migrations.Migration):

    dependencies = [
        ('kit', '0006_lags_and_units'),
    ]

    operations = [
        *(migrations.AddField(model_name=model, name='figures', field=field()) for model in FIGURES),
        *(moved(model, names) for model, names in FIGURES.items()),
        *(
            migrations.RemoveField(model_name=model, name=name)
            for model, names in FIGURES.items()
            for name in names
        ),
        *(migrations.AddConstraint(model_name=model, constraint=constraint(model)) for model in FIGURES),
    ]
