from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('dialling', '0002_one_holder'),
    ]

    operations = [
        migrations.RenameModel(old_name='Step', new_name='DialStep'),
    ]
