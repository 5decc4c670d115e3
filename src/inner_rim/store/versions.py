"""Names of the schema's steps, in order, known without importing the steps themselves."""

STEP_NAMES = ("0001 jobs, log and settings", "0002 shelf", "0003 search of the log")
