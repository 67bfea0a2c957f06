# Large tables are laid down in pieces and taken over in one stroke.

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('records', '0009_devices_and_instruments'),
    ]

    operations = [
        migrations.CreateModel(
            name='StagedItem',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('series', models.CharField(blank=True, db_index=True, max_length=60)),
                ('kind', models.CharField(max_length=12)),
                ('value', models.FloatField(db_index=True)),
                ('volts', models.FloatField()),
                ('mounting', models.CharField(max_length=12)),
                ('diameter', models.FloatField(default=0.0)),
                ('height', models.FloatField(default=0.0)),
                ('pitch', models.FloatField(default=0.0)),
                ('tolerance', models.FloatField(default=0.2)),
                ('ac_volts', models.FloatField(default=0.0)),
                ('safety', models.CharField(blank=True, max_length=8)),
                ('temperature', models.FloatField(default=85.0)),
                ('life', models.FloatField(default=0.0)),
                ('ripple', models.FloatField(default=0.0)),
                ('ripple_frequency', models.FloatField(default=120.0)),
                ('esr', models.FloatField(default=0.0)),
                ('esr_frequency', models.FloatField(default=120.0)),
                ('bipolar', models.BooleanField(default=False)),
                ('low_impedance', models.BooleanField(default=False)),
                ('pulse', models.BooleanField(default=False)),
                ('price', models.FloatField(default=0.0)),
                ('pack', models.PositiveIntegerField(default=1)),
                ('supplier', models.CharField(blank=True, max_length=60)),
                ('lead_days', models.PositiveIntegerField(default=0)),
                ('stock', models.PositiveIntegerField(default=0)),
                ('note', models.CharField(blank=True, max_length=400)),
                ('batch', models.CharField(db_index=True, max_length=24)),
                ('part', models.CharField(max_length=60)),
            ],
            options={
                'abstract': False,
            },
        ),
    ]
