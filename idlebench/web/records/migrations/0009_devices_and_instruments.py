# Devices that are paired, and who took a reading or wrote a line; what was there before was done on this machine.

import django.db.models.deletion
import django.utils.timezone
import idlebench.web.records.devices
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('records', '0008_tallies_and_turns'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Instrument',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40, unique=True)),
                ('address', models.CharField(max_length=120, unique=True)),
                ('identity', models.CharField(blank=True, max_length=100)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='PairingCode',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('mark', models.CharField(max_length=64)),
                ('may', models.CharField(choices=[('look', 'look'), ('work', 'work')], default='look', max_length=4)),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('spent', models.DateTimeField(blank=True, null=True)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='WrongCode',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('address', models.CharField(max_length=60)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.AddField(
            model_name='entry',
            name='device',
            field=models.CharField(blank=True, default=idlebench.web.records.devices.acting, max_length=40),
        ),
        migrations.AddField(
            model_name='reading',
            name='device',
            field=models.CharField(blank=True, default=idlebench.web.records.devices.acting, max_length=40),
        ),
        migrations.CreateModel(
            name='Device',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40)),
                ('may', models.CharField(choices=[('look', 'look'), ('work', 'work')], default='look', max_length=4)),
                ('paired', models.DateTimeField(default=django.utils.timezone.now)),
                ('seen', models.DateTimeField(default=django.utils.timezone.now)),
                ('ended', models.DateTimeField(blank=True, null=True)),
                ('session', models.CharField(blank=True, max_length=40)),
                ('user', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='device', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-id'],
                'constraints': [models.UniqueConstraint(condition=models.Q(('ended', None)), fields=('name',), name='one_paired_of_a_name')],
            },
        ),
    ]
