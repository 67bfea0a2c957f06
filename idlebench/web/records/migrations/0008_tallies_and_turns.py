# Series are counted by triggers (records/tally.py) and units by turns; parts of an older bench are judged when it is opened.

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('records', '0007_removed'),
    ]

    operations = [
        migrations.CreateModel(
            name='Judged',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('rules', models.CharField(max_length=64)),
                ('year', models.PositiveIntegerField()),
            ],
            options={
                'verbose_name_plural': 'judged',
            },
        ),
        migrations.CreateModel(
            name='SeriesTally',
            fields=[
                ('series', models.CharField(max_length=60, primary_key=True, serialize=False)),
                ('seen', models.IntegerField(default=0)),
                ('failed', models.IntegerField(default=0)),
            ],
            options={
                'verbose_name_plural': 'series tallies',
                'ordering': ['series'],
            },
        ),
        migrations.CreateModel(
            name='Summary',
            fields=[
                ('unit', models.PositiveBigIntegerField(primary_key=True, serialize=False)),
                ('stamp', models.CharField(max_length=64)),
                ('data', models.JSONField()),
            ],
            options={
                'verbose_name_plural': 'summaries',
            },
        ),
        migrations.AddField(
            model_name='historicalpart',
            name='condemned',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='part',
            name='condemned',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='unit',
            name='turn',
            field=models.PositiveIntegerField(default=0),
        ),
        migrations.AddIndex(
            model_name='part',
            index=models.Index(fields=['ref', 'id'], name='part_by_ref'),
        ),
    ]
