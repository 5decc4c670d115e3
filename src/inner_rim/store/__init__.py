"""Where jobs and their logs are kept: tables, repository, migrations, backup."""
