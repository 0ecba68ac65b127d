"""Day, chair and dentist become a visit's: a restoration may take several, and a visit may hold several."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

STATUS = {"open": "booked", "running": "in_the_chair", "done": "done"}


def book(apps, schema_editor):
    Restoration, Visit, VisitPart = (
        apps.get_model("restorations", name) for name in ("Restoration", "Visit", "VisitPart")
    )
    for restoration in Restoration.objects.order_by("starts_at", "id"):
        visit = Visit.objects.create(
            practice_id=restoration.practice_id,
            patient_id=restoration.patient_id,
            dentist_id=restoration.dentist_id,
            starts_at=restoration.starts_at,
            chair=restoration.chair,
            status=STATUS[restoration.status],
        )
        VisitPart.objects.create(
            practice_id=restoration.practice_id, visit=visit, restoration=restoration, purpose="place"
        )


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0003_teaching'),
        ('restorations', '0002_structured_alerts'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AlterModelOptions(
            name='restoration',
            options={'ordering': ['id']},
        ),
        migrations.CreateModel(
            name='Visit',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('starts_at', models.DateTimeField()),
                ('chair', models.CharField(max_length=20)),
                ('status', models.CharField(choices=[('booked', 'Booked'), ('arrived', 'Arrived'), ('in_the_chair', 'In The Chair'), ('done', 'Done'), ('canceled', 'Canceled'), ('did_not_come', 'Did Not Come')], default='booked', max_length=20)),
                ('dentist', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('patient', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='visits', to='restorations.patient')),
                ('practice', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='accounts.practice')),
            ],
            options={
                'ordering': ['starts_at', 'id'],
            },
        ),
        migrations.CreateModel(
            name='VisitPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('purpose', models.CharField(choices=[('place', 'Place'), ('band_off', 'Band Off'), ('polish', 'Polish'), ('review', 'Review')], default='place', max_length=20)),
                ('practice', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='accounts.practice')),
                ('restoration', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='parts', to='restorations.restoration')),
                ('visit', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='parts', to='restorations.visit')),
            ],
            options={
                'ordering': ['id'],
                'constraints': [models.UniqueConstraint(fields=('visit', 'restoration', 'purpose'), name='once_a_visit')],
            },
        ),
        migrations.RunPython(book),
        migrations.RemoveField(
            model_name='restoration',
            name='chair',
        ),
        migrations.RemoveField(
            model_name='restoration',
            name='dentist',
        ),
        migrations.RemoveField(
            model_name='restoration',
            name='starts_at',
        ),
    ]
