"""Alerts become fields of their own; what stood there as text is kept as text, and read only where it cannot mean less."""

import re

from django.db import migrations, models

ALLERGY = re.compile(r"^(latex|resin|mercury) allergy$|^allergy to (latex|resin|mercury)$", re.I)
FLAGS = {
    "pregnant": re.compile(r"^pregnant\b(?!.*\?)", re.I),
    "breast_feeding": re.compile(r"^(breast.?feeding|nursing)$", re.I),
}


def move(apps, schema_editor):
    Patient = apps.get_model("restorations", "Patient")
    for patient in Patient.objects.all():
        texts = [str(one) for one in patient.alerts]
        for text in texts:
            found = ALLERGY.match(text.strip())
            if found:
                to = (found.group(1) or found.group(2)).lower()
                patient.allergies = [*patient.allergies, {"to": to, "substance": ""}]
            for flag, said in FLAGS.items():
                if said.match(text.strip()):
                    setattr(patient, flag, True)
        patient.alert_text = "; ".join(texts)
        patient.save()


def back(apps, schema_editor):
    Patient = apps.get_model("restorations", "Patient")
    for patient in Patient.objects.all():
        patient.alerts = [one for one in patient.alert_text.split("; ") if one]
        patient.save()


NEW_FLAGS = (
    "pregnant", "planning_pregnancy", "breast_feeding", "anticoagulants", "pacemaker", "endocarditis_risk",
    "light_sensitizing", "heart_disease", "beta_blocker_or_tricyclic", "methemoglobinemia", "neurological_disease",
    "kidney_impairment",
)


class Migration(migrations.Migration):
    dependencies = [("restorations", "0001_initial")]
    operations = [
        migrations.AddField("patient", "weight_kg", models.FloatField(null=True)),
        migrations.AddField("patient", "allergies", models.JSONField(default=list)),
        *(migrations.AddField("patient", flag, models.BooleanField(default=False)) for flag in NEW_FLAGS),
        migrations.AddField("patient", "alert_text", models.TextField(blank=True, default=""), preserve_default=False),
        migrations.RunPython(move, back),
        migrations.RemoveField("patient", "alerts"),
    ]
