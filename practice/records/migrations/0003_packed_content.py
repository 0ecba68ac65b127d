from django.db import migrations, models

import practice.accounts.packed


def pack(apps, _):
    record = apps.get_model("records", "Record")
    for one in record._base_manager.only("pk", "content").iterator(chunk_size=100):
        record._base_manager.filter(pk=one.pk).update(packed_content=one.content)


class Migration(migrations.Migration):
    dependencies = [("records", "0002_restored")]

    operations = [
        migrations.AddField("record", "packed_content", practice.accounts.packed.PackedJSONField(null=True)),
        migrations.RunPython(pack),
        migrations.RemoveField("record", "content"),
        migrations.RenameField("record", "packed_content", "content"),
        migrations.AlterField("record", "content", practice.accounts.packed.PackedJSONField()),
        migrations.AddIndex("record", models.Index(fields=["practice", "signed_at"], name="records_to_sign")),
    ]
