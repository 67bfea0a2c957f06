"""The changes of tables from 0002 to 0038 in one: a new bench takes these two steps, one that stands between takes the old ones."""

from importlib import import_module

import django.db.models.deletion
import django.utils.timezone
import idlebench.web.records.devices
from django.conf import settings
from django.db import migrations, models



class Migration(migrations.Migration):

    replaces = [('records', '0002_the_record'), ('records', '0003_what_was_read_before'), ('records', '0004_safety_marks_and_left_out'), ('records', '0005_earth_limit'), ('records', '0006_shelf_devices'), ('records', '0007_removed'), ('records', '0008_tallies_and_turns'), ('records', '0009_devices_and_instruments'), ('records', '0010_staged_items'), ('records', '0011_buying'), ('records', '0012_calendar'), ('records', '0013_first_claims'), ('records', '0014_what_an_order_settled'), ('records', '0015_cells_and_diodes'), ('records', '0016_swaps_and_mends'), ('records', '0017_procedures'), ('records', '0018_bags'), ('records', '0019_weights'), ('records', '0020_used_parts'), ('records', '0021_replaced_boards'), ('records', '0022_class_of_what_is_in'), ('records', '0023_soaked'), ('records', '0024_stands_for'), ('records', '0025_map_of_what'), ('records', '0026_what_the_stand_in_finds'), ('records', '0027_a_board_of_a_donor'), ('records', '0028_kinds_of_instrument'), ('records', '0029_faults_and_monitors'), ('records', '0030_burn'), ('records', '0031_next_look'), ('records', '0032_practice'), ('records', '0033_parcels'), ('records', '0034_clocks_and_imports'), ('records', '0035_outdated_choices'), ('records', '0036_surface_cans'), ('records', '0037_revisions'), ('records', '0038_words_of_choices')]

    dependencies = [
        ('records', '0001_initial'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            model_name='unit',
            name='look_skipped',
            field=models.JSONField(default=dict),
        ),
        migrations.CreateModel(
            name='Event',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField()),
                ('kind', models.CharField(max_length=16)),
                ('row', models.CharField(blank=True, max_length=24)),
                ('board', models.CharField(blank=True, max_length=24)),
                ('what', models.CharField(blank=True, max_length=16)),
                ('mains', models.BooleanField(default=False)),
                ('key', models.CharField(blank=True, max_length=120)),
                ('value', models.FloatField(null=True)),
                ('endless', models.BooleanField(default=False)),
                ('overridden', models.BooleanField(default=False)),
                ('step', models.CharField(blank=True, max_length=20)),
                ('was', models.JSONField(null=True)),
                ('words', models.CharField(blank=True, max_length=300)),
                ('reading', models.OneToOneField(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='event', to='records.reading')),
                ('unit', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='events', to='records.unit')),
            ],
            options={
                'db_table': 'records_event',
                'ordering': ['id'],
            },
        ),
        migrations.RunPython(
            code=import_module(f"{__package__}.0003_what_was_read_before").tell,
            reverse_code=migrations.RunPython.noop,
        ),
        migrations.AlterField(
            model_name='catalogueitem',
            name='safety',
            field=models.CharField(blank=True, max_length=8),
        ),
        migrations.AlterField(
            model_name='choice',
            name='action',
            field=models.CharField(choices=[('take', 'take a new part'), ('keep', 'leave the old one in'), ('out', 'leave out for a test')], max_length=6),
        ),
        migrations.AlterField(
            model_name='historicalchoice',
            name='action',
            field=models.CharField(choices=[('take', 'take a new part'), ('keep', 'leave the old one in'), ('out', 'leave out for a test')], max_length=6),
        ),
        migrations.AlterField(
            model_name='historicalpart',
            name='safety',
            field=models.CharField(blank=True, max_length=8),
        ),
        migrations.AlterField(
            model_name='part',
            name='safety',
            field=models.CharField(blank=True, max_length=8),
        ),
        migrations.AddField(
            model_name='job',
            name='earth_limit',
            field=models.FloatField(default=0.3),
        ),
        migrations.CreateModel(
            name='ShelfDevice',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('part', models.CharField(max_length=60, unique=True)),
                ('what', models.CharField(choices=[('regulator', 'regulator'), ('fuse', 'fuse')], max_length=12)),
                ('facts', models.JSONField(default=dict)),
                ('price', models.FloatField(default=0.0)),
                ('stock', models.PositiveIntegerField(default=0)),
            ],
            options={
                'ordering': ['what', 'part'],
            },
        ),
        migrations.CreateModel(
            name='Removed',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.CharField(max_length=8)),
                ('title', models.CharField(max_length=200)),
                ('rows', models.TextField()),
                ('count', models.PositiveIntegerField(default=0)),
                ('at', models.DateTimeField()),
            ],
            options={
                'verbose_name_plural': 'removed',
                'ordering': ['-at'],
            },
        ),
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
        migrations.CreateModel(
            name='BuyingPlan',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField()),
                ('stamp', models.CharField(max_length=64)),
                ('found', models.JSONField()),
            ],
        ),
        migrations.CreateModel(
            name='Order',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('supplier', models.CharField(max_length=60)),
                ('at', models.DateTimeField()),
                ('postage', models.FloatField(default=0.0)),
                ('lead_days', models.FloatField(default=0.0)),
                ('closed', models.BooleanField(default=False)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='Supplier',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60, unique=True)),
                ('postage', models.FloatField(default=0.0)),
                ('free_above', models.FloatField(blank=True, null=True)),
                ('handling', models.FloatField(default=0.0)),
                ('minimum', models.FloatField(default=0.0)),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.AddField(
            model_name='choice',
            name='by_hand',
            field=models.BooleanField(default=True),
        ),
        migrations.AddField(
            model_name='historicalchoice',
            name='by_hand',
            field=models.BooleanField(default=True),
        ),
        migrations.CreateModel(
            name='OrderLine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('part', models.CharField(max_length=60)),
                ('quantity', models.PositiveIntegerField()),
                ('price', models.FloatField()),
                ('arrived', models.PositiveIntegerField(default=0)),
                ('short', models.BooleanField(default=False)),
                ('order', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lines', to='records.order')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='SupplierOffer',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('part', models.CharField(db_index=True, max_length=60)),
                ('pack', models.PositiveIntegerField(default=1)),
                ('breaks', models.JSONField()),
                ('stock', models.PositiveIntegerField(blank=True, null=True)),
                ('lead_days', models.FloatField(default=14.0)),
                ('supplier', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='offers', to='records.supplier')),
            ],
            options={
                'ordering': ['part', 'id'],
                'constraints': [models.UniqueConstraint(fields=('part', 'supplier', 'pack'), name='offer_once')],
            },
        ),
        migrations.CreateModel(
            name='CalendarPlan',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField()),
                ('begins', models.DateTimeField()),
                ('found', models.JSONField()),
            ],
        ),
        migrations.CreateModel(
            name='FirstClaim',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('part', models.CharField(db_index=True, max_length=60)),
                ('unit', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='first_claims', to='records.unit')),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='GatherStep',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=8)),
                ('pieces', models.PositiveIntegerField(default=0)),
                ('at', models.DateTimeField()),
                ('device', models.CharField(blank=True, default=idlebench.web.records.devices.acting, max_length=40)),
                ('order', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='steps', to='records.order')),
                ('line', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, to='records.orderline')),
                ('claim', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, to='records.firstclaim')),
                ('settled', models.JSONField(default=list)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.AlterField(
            model_name='shelfdevice',
            name='what',
            field=models.CharField(choices=[('regulator', 'regulator'), ('fuse', 'fuse'), ('battery', 'battery'), ('diode', 'diode')], max_length=12),
        ),
        migrations.CreateModel(
            name='Mend',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('line', models.CharField(max_length=300)),
                ('net', models.CharField(blank=True, max_length=40)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('board', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='mends', to='records.board')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='DeviceSwap',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('ref', models.CharField(max_length=12)),
                ('what', models.CharField(max_length=12)),
                ('was', models.CharField(blank=True, max_length=300)),
                ('item', models.CharField(max_length=60)),
                ('facts', models.JSONField(default=dict)),
                ('read_out', models.CharField(blank=True, max_length=120)),
                ('note', models.CharField(blank=True, max_length=300)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('board', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='device_swaps', to='records.board')),
            ],
            options={
                'ordering': ['id'],
                'constraints': [models.UniqueConstraint(fields=('board', 'ref'), name='device_swapped_once')],
            },
        ),
        migrations.CreateModel(
            name='ShopProcedure',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60, unique=True)),
                ('data', models.JSONField()),
            ],
            options={
                'ordering': ['name'],
            },
        ),
        migrations.CreateModel(
            name='UnitProcedure',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('title', models.CharField(max_length=80)),
                ('data', models.JSONField()),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('ended', models.DateTimeField(blank=True, null=True)),
                ('waits_until', models.DateTimeField(blank=True, null=True)),
                ('dries_until', models.DateTimeField(blank=True, null=True)),
                ('board', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='procedures', to='records.board')),
                ('unit', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='procedures', to='records.unit')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='ProcedureStep',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveSmallIntegerField()),
                ('state', models.CharField(choices=[('done', 'done'), ('skipped', 'skipped'), ('failed', 'failed')], max_length=8)),
                ('reason', models.CharField(blank=True, max_length=500)),
                ('typed', models.CharField(blank=True, max_length=60)),
                ('at', models.DateTimeField()),
                ('free_at', models.DateTimeField(blank=True, null=True)),
                ('procedure', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='steps', to='records.unitprocedure')),
            ],
            options={
                'ordering': ['id'],
                'constraints': [models.UniqueConstraint(fields=('procedure', 'number'), name='step_once')],
            },
        ),
        migrations.CreateModel(
            name='Bag',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('contents', models.JSONField(default=list)),
                ('at', models.DateTimeField()),
                ('board', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='bag', to='records.board')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='ShopHours',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('minutes', models.PositiveIntegerField(default=120)),
                ('begins', models.PositiveIntegerField(default=1140)),
                ('free', models.JSONField(default=list)),
                ('hands', models.PositiveIntegerField(default=1)),
                ('weights', models.JSONField(default=dict)),
            ],
        ),
        migrations.AddField(
            model_name='catalogueitem',
            name='used_read',
            field=models.DateTimeField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='board',
            name='replaced',
            field=models.CharField(blank=True, max_length=300),
        ),
        migrations.AddField(
            model_name='board',
            name='wiring',
            field=models.TextField(blank=True, max_length=4000),
        ),
        migrations.AddField(
            model_name='swap',
            name='safety',
            field=models.CharField(blank=True, default='?', max_length=8),
        ),
        migrations.RunPython(
            code=import_module(f"{__package__}.0022_class_of_what_is_in").from_the_shelf,
            reverse_code=migrations.RunPython.noop,
        ),
        migrations.AddField(
            model_name='unitprocedure',
            name='soaked',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='board',
            name='stands_for',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='stood_for', to='records.board'),
        ),
        migrations.AddField(
            model_name='columnmap',
            name='what',
            field=models.CharField(default='parts', max_length=10),
        ),
        migrations.AlterField(
            model_name='columnmap',
            name='name',
            field=models.CharField(max_length=60),
        ),
        migrations.AddConstraint(
            model_name='columnmap',
            constraint=models.UniqueConstraint(fields=('name', 'what'), name='one_map_a_name'),
        ),
        migrations.AddField(
            model_name='board',
            name='truth',
            field=models.TextField(blank=True, max_length=4000),
        ),
        migrations.AddField(
            model_name='board',
            name='called',
            field=models.CharField(blank=True, max_length=60),
        ),
        migrations.AddField(
            model_name='board',
            name='came_from',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='lent', to='records.unit'),
        ),
        migrations.AddField(
            model_name='instrument',
            name='kind',
            field=models.CharField(default='meter', max_length=8),
        ),
        migrations.AddField(
            model_name='instrument',
            name='last',
            field=models.CharField(blank=True, max_length=200),
        ),
        migrations.AddField(
            model_name='board',
            name='monitor_model',
            field=models.TextField(blank=True, max_length=4000),
        ),
        migrations.AddField(
            model_name='powersession',
            name='off_now',
            field=models.CharField(blank=True, max_length=160),
        ),
        migrations.CreateModel(
            name='Clue',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('sign', 'a sign'), ('reading', 'a reading'), ('net', 'ohms of a net')], max_length=8)),
                ('text', models.CharField(max_length=200)),
                ('step', models.CharField(blank=True, max_length=20)),
                ('simulated', models.BooleanField(default=False)),
                ('at', models.DateTimeField()),
                ('dropped', models.DateTimeField(blank=True, null=True)),
                ('device', models.CharField(blank=True, default=idlebench.web.records.devices.acting, max_length=40)),
                ('board', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='clues', to='records.board')),
                ('unit', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='clues', to='records.unit')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='Cause',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('ref', models.CharField(max_length=80)),
                ('failure', models.CharField(max_length=80)),
                ('place', models.CharField(blank=True, max_length=80)),
                ('share', models.FloatField(default=0.0)),
                ('rails', models.CharField(blank=True, max_length=200)),
                ('role', models.CharField(blank=True, max_length=24)),
                ('series', models.CharField(blank=True, max_length=60)),
                ('age', models.CharField(blank=True, max_length=20)),
                ('heat', models.CharField(blank=True, max_length=20)),
                ('simulated', models.BooleanField(default=False)),
                ('at', models.DateTimeField()),
                ('outcome', models.CharField(blank=True, choices=[('confirmed', 'confirmed'), ('ruled out', 'ruled out')], max_length=10)),
                ('words', models.CharField(blank=True, max_length=300)),
                ('settled', models.DateTimeField(blank=True, null=True)),
                ('board', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='causes', to='records.board')),
                ('unit', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='causes', to='records.unit')),
            ],
            options={
                'ordering': ['id'],
                'constraints': [models.UniqueConstraint(condition=models.Q(('outcome', '')), fields=('unit', 'board', 'ref', 'failure'), name='cause_open_once')],
            },
        ),
        migrations.AddField(
            model_name='unit',
            name='burn',
            field=models.CharField(blank=True, max_length=8),
        ),
        migrations.AddField(
            model_name='unit',
            name='hours_a_day',
            field=models.FloatField(default=4.0),
        ),
        migrations.AddField(
            model_name='unit',
            name='next_look',
            field=models.DateField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='unit',
            name='next_look_of',
            field=models.CharField(blank=True, max_length=200),
        ),
        migrations.CreateModel(
            name='PracticeRun',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=20)),
                ('seed', models.CharField(max_length=60)),
                ('kept', models.JSONField(default=dict)),
                ('began', models.DateTimeField()),
                ('ended', models.DateTimeField(blank=True, null=True)),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.AddField(
            model_name='job',
            name='parcels',
            field=models.JSONField(default=list),
        ),
        migrations.CreateModel(
            name='UnitCounts',
            fields=[
                ('unit', models.PositiveBigIntegerField(primary_key=True, serialize=False)),
                ('turn', models.PositiveIntegerField()),
                ('stamp', models.CharField(max_length=64)),
                ('parts', models.PositiveIntegerField()),
                ('data', models.JSONField()),
            ],
            options={
                'verbose_name_plural': 'unit counts',
            },
        ),
        migrations.AddField(
            model_name='deviceswap',
            name='took',
            field=models.BooleanField(null=True),
        ),
        migrations.AddField(
            model_name='event',
            name='boot',
            field=models.CharField(blank=True, max_length=36),
        ),
        migrations.AddField(
            model_name='event',
            name='steady',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='procedurestep',
            name='boot',
            field=models.CharField(blank=True, max_length=36),
        ),
        migrations.AddField(
            model_name='procedurestep',
            name='free_steady',
            field=models.DateTimeField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='reformreading',
            name='volts',
            field=models.FloatField(null=True),
        ),
        migrations.AddField(
            model_name='summary',
            name='made',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='summary',
            name='until',
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name='swap',
            name='took',
            field=models.BooleanField(null=True),
        ),
        migrations.AddField(
            model_name='unitprocedure',
            name='boot',
            field=models.CharField(blank=True, max_length=36),
        ),
        migrations.AddField(
            model_name='unitprocedure',
            name='dries_steady',
            field=models.DateTimeField(blank=True, null=True),
        ),
        migrations.CreateModel(
            name='FailureCount',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('unit', models.PositiveBigIntegerField(db_index=True)),
                ('by', models.CharField(max_length=12)),
                ('name', models.CharField(blank=True, max_length=80)),
                ('failed', models.PositiveIntegerField()),
                ('of', models.PositiveIntegerField()),
            ],
            options={
                'ordering': ['id'],
                'indexes': [models.Index(fields=['by', 'name', 'failed', 'of'], name='failures_added_up')],
            },
        ),
        migrations.CreateModel(
            name='ImportedRecord',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('last', models.PositiveBigIntegerField()),
                ('at', models.DateTimeField()),
                ('boot', models.CharField(blank=True, max_length=36)),
                ('steady', models.DateTimeField(null=True)),
                ('taken', models.DateTimeField(blank=True, null=True)),
                ('by', models.CharField(blank=True, max_length=60)),
                ('reason', models.CharField(blank=True, max_length=500)),
                ('unit', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='imported_record', to='records.unit')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.AddField(
            model_name='choice',
            name='outdated',
            field=models.CharField(blank=True, default='', max_length=300),
        ),
        migrations.AddField(
            model_name='historicalchoice',
            name='outdated',
            field=models.CharField(blank=True, default='', max_length=300),
        ),
        migrations.RunPython(
            code=import_module(f"{__package__}.0036_surface_cans").one_name_each,
            reverse_code=migrations.RunPython.noop,
        ),
        migrations.CreateModel(
            name='Revision',
            fields=[
                ('unit', models.BigIntegerField(primary_key=True, serialize=False)),
                ('parts', models.BigIntegerField(default=0)),
                ('record', models.BigIntegerField(default=0)),
            ],
        ),
        migrations.AlterField(
            model_name='choice',
            name='action',
            field=models.CharField(choices=[('take', 'use a new part'), ('keep', 'keep the old part'), ('out', 'leave out for a test')], max_length=6),
        ),
        migrations.AlterField(
            model_name='historicalchoice',
            name='action',
            field=models.CharField(choices=[('take', 'use a new part'), ('keep', 'keep the old part'), ('out', 'leave out for a test')], max_length=6),
        ),
    ]
