from django.db import migrations, models

from mallet.terms.upgrade_plan import upgrade_plan


def sum_up(apps, _):
    version = apps.get_model("restorations", "PlanVersion")
    body = apps.get_model("restorations", "PlanBody")
    for one in body.objects.only("version_id", "plan").iterator(chunk_size=100):
        later = upgrade_plan(one.plan).get("later", [])
        version.objects.filter(pk=one.version_id).update(wants=one.plan.get("wants"), later=later)


class Migration(migrations.Migration):
    dependencies = [("restorations", "0006_packed_bodies")]

    operations = [
        migrations.AddField("planversion", "wants", models.JSONField(null=True)),
        migrations.AddField("planversion", "later", models.JSONField(default=list)),
        migrations.RunPython(sum_up),
    ]
