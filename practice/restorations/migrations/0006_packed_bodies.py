from django.db import migrations, models

import practice.accounts.packed

PACKED = ("case", "plan", "drawing")


def pack(apps, _):
    body = apps.get_model("restorations", "PlanBody")
    for one in body.objects.only("pk", *PACKED).iterator(chunk_size=100):
        body.objects.filter(pk=one.pk).update(**{f"packed_{name}": getattr(one, name) for name in PACKED})


class Migration(migrations.Migration):
    dependencies = [("restorations", "0005_trials")]

    operations = [
        *(
            migrations.AddField("planbody", f"packed_{name}", practice.accounts.packed.PackedJSONField(null=True))
            for name in PACKED
        ),
        migrations.RunPython(pack),
        *(migrations.RemoveField("planbody", name) for name in PACKED),
        *(migrations.RenameField("planbody", f"packed_{name}", name) for name in PACKED),
        *(migrations.AlterField("planbody", name, practice.accounts.packed.PackedJSONField()) for name in PACKED),
        migrations.AlterField(
            "patient", "searched", models.CharField(max_length=160, default="", editable=False)
        ),
        migrations.AddIndex(
            "patient",
            models.Index(fields=["practice", "archived_at", "searched", "chart_number"], name="patients_by_name"),
        ),
        migrations.AddIndex("visit", models.Index(fields=["practice", "starts_at"], name="visits_of_a_day")),
    ]
