from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0005_profile_versions")]

    operations = [
        migrations.AddField("Account", "password_given", models.BooleanField(default=False)),
        migrations.AddField("Account", "disabled_at", models.DateTimeField(null=True)),
    ]
