"""What was called a maker is called a manufacturer, in the properties of things too."""

from django.db import migrations


def renamed(old: str, new: str):
    def forwards(apps, schema_editor):
        items = apps.get_model("equipment", "Item")._base_manager
        for item in items.filter(properties__has_key=old):
            item.properties[new] = item.properties.pop(old)
            item.save(update_fields=["properties"])

    return forwards


class Migration(migrations.Migration):
    dependencies = [("equipment", "0005_shelf")]

    operations = [
        migrations.RenameField("item", "maker", "manufacturer"),
        migrations.RunPython(renamed("maker", "manufacturer"), renamed("manufacturer", "maker")),
    ]
