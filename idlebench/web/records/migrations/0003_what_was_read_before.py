"""Readings and power of a bench from before the record become its events: kept, with nothing known of what they were read of.

What a unit was handed over with stands; elsewhere such a reading is asked again.
"""

from django.db import migrations


def tell(apps, schema_editor):
    Unit, Event = apps.get_model("records", "Unit"), apps.get_model("records", "Event")
    for unit in Unit.objects.all():
        found = []
        for session in unit.sessions.all():
            found.append((session.began, 0, {"kind": "power", "step": session.step, "words": session.title}))
            if session.ended is not None:
                found.append((session.ended, 2, {"kind": "idle", "words": "made idle"}))
        for reading in unit.readings.all():
            # a resistance without end was kept without a number
            endless = reading.value is None and not reading.overridden
            facts = {"kind": "read", "key": reading.key, "value": reading.value, "endless": endless}
            found.append((reading.at, 1, {**facts, "overridden": reading.overridden, "reading": reading}))
        if unit.handed_over is not None:
            found.append((unit.handed_over, 3, {"kind": "handed over", "words": "handed over"}))
        found.sort(key=lambda item: item[:2])
        Event.objects.bulk_create([Event(unit=unit, at=at, **facts) for at, _, facts in found], batch_size=200)


class Migration(migrations.Migration):
    dependencies = [("records", "0002_the_record")]
    operations = [migrations.RunPython(tell, migrations.RunPython.noop)]
