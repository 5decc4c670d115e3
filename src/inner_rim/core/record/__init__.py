"""What is recorded: jobs, logs, parts, sizes, units, methods, and the working behind a figure."""
