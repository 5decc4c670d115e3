"""The store of jobs and logs: tables, repository, migrations, backup."""
