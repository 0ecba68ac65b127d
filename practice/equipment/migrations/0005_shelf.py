"""Masses become things of any kind; their lots rows of their own."""

import django.db.models.deletion
from django.db import migrations, models


def part_lots(apps, schema_editor):
    Item, Lot = apps.get_model("equipment", "Item"), apps.get_model("equipment", "Lot")
    for item in Item.objects.all():
        item.properties = {"role": item.role, **item.properties}
        item.save(update_fields=["properties"])
        count = 1 if item.in_stock else 0
        Lot.objects.create(practice=item.practice, item=item, number=item.lot, count=count)


class Migration(migrations.Migration):
    dependencies = [
        ("accounts", "0001_initial"),
        ("equipment", "0004_lamp_modes"),
        ("restorations", "0001_initial"),
    ]

    operations = [
        migrations.RenameModel("Material", "Item"),
        migrations.AddField("item", "kind", models.CharField(default="mass", max_length=20), preserve_default=False),
        migrations.AddField("item", "maker", models.CharField(blank=True, max_length=80, default=""), preserve_default=False),
        migrations.AddField("item", "gtin", models.CharField(blank=True, max_length=14, default=""), preserve_default=False),
        migrations.CreateModel(
            name="Lot",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.CharField(blank=True, max_length=40)),
                ("expires_on", models.DateField(null=True)),
                ("count", models.PositiveIntegerField(default=1)),
                ("item", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="lots", to="equipment.item")),
                ("practice", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to="accounts.practice")),
            ],
            options={"ordering": ["id"]},
        ),
        migrations.RunPython(part_lots, migrations.RunPython.noop),
        migrations.RemoveField("item", "role"),
        migrations.RemoveField("item", "lot"),
        migrations.RemoveField("item", "in_stock"),
        migrations.AddConstraint("item", models.UniqueConstraint(fields=["practice", "kind", "name"], name="one_thing_a_name")),
        migrations.AddConstraint("lot", models.UniqueConstraint(fields=["item", "number"], name="one_row_a_lot")),
    ]
