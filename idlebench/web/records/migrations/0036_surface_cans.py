"""What lies on surface pads is a can where its kind is rolled into one, else a chip; what was called a can is asked its size."""

from django.db import migrations
from django.db.models import Q

#: The widest and tallest surface can made, mm; from this voltage on a can whose size nobody wrote down was one with lugs.
WIDEST, TALLEST, CHASSIS_FROM = 18.5, 22.5, 160


def one_name_each(apps, schema_editor):
    rolled = Q(kind__in=("wet", "polymer"))
    for name in ("CatalogueItem", "StagedItem", "Part", "HistoricalPart"):
        rows = apps.get_model("records", name).objects
        large = Q(diameter__gt=WIDEST) | Q(height__gt=TALLEST)
        unmeasured = (Q(diameter=None) | Q(diameter=0)) & Q(volts__gte=CHASSIS_FROM)
        rows.filter(Q(kind="paper") | (large | unmeasured) & rolled, mounting="can").update(mounting="chassis")
        rows.filter(large, rolled, mounting="chip").update(mounting="chassis")
        rows.filter(rolled, mounting="chip").update(mounting="can")
        rows.filter(~rolled, mounting="can").update(mounting="chip")
    swaps = apps.get_model("records", "Swap").objects
    chassis = apps.get_model("records", "CatalogueItem").objects.filter(mounting="chassis").values("part")
    swaps.filter(mounting="can", item__in=chassis).update(mounting="chassis")
    swaps.filter(rolled, mounting="chip").update(mounting="can")
    swaps.filter(~rolled, mounting="can").update(mounting="chip")
    for times in apps.get_model("records", "ShopTimes").objects.all():
        if "can" in times.minutes:
            times.minutes["chassis"] = times.minutes.pop("can")
        if "chip" in times.minutes:
            # until now it was said of all that stands on surface pads
            times.minutes["can"] = times.minutes["chip"]
        times.save()


class Migration(migrations.Migration):
    dependencies = [("records", "0035_outdated_choices")]

    operations = [migrations.RunPython(one_name_each, migrations.RunPython.noop)]
