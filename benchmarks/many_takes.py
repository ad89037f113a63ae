"""A hundred thousand takes in the demo world, for the load benchmark: `manage.py shell < benchmarks/many_takes.py`."""

from django.db import connection

from rapzel.shoots.models import Scene
from rapzel.takes.models import Outcome, Take

MANY = 100_000
scenes = list(Scene.objects.all())
each = MANY // len(scenes)
for scene in scenes:
    first = (
        scene.takes.order_by("-number").values_list("number", flat=True).first() or 0
    ) + 1
    rows = [
        Take(
            scene=scene,
            number=first + n,
            outcome=Outcome.values[n % 7],
            note="load",
            document=scene.document,
        )
        for n in range(each)
    ]
    Take.objects.bulk_create(rows, batch_size=2000)
with connection.cursor() as cursor:
    # as the server does by itself after a while
    cursor.execute("VACUUM ANALYZE takes_take")
print(Take.objects.count(), "takes")
