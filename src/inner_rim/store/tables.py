"""The tables, for statements; the schema itself is made by the migrations."""

from __future__ import annotations

from sqlalchemy import Column, Float, Integer, MetaData, Table, Text

METADATA = MetaData()

STATE = Table(
    "state",
    METADATA,
    Column("id", Integer, primary_key=True),
    Column("change", Integer, nullable=False),
)
JOBS = Table(
    "jobs",
    METADATA,
    Column("id", Integer, primary_key=True),
    Column("uid", Text, nullable=False),
    Column("document", Text, nullable=False),
    Column("drafts", Text, nullable=False),
    Column("revision", Integer, nullable=False),
    Column("archived", Integer, nullable=False),
    Column("title", Text),
    Column("customer", Text),
    Column("bike", Text),
    Column("due", Text),
    Column("created_at", Text, nullable=False),
    Column("changed_at", Text, nullable=False),
)
LOG = Table(
    "log",
    METADATA,
    Column("id", Integer, primary_key=True),
    Column("uid", Text, nullable=False),
    Column("job_uid", Text, nullable=False),
    Column("wheel_id", Text, nullable=False),
    Column("at", Text, nullable=False),
    Column("kind", Text, nullable=False),
    Column("body", Text, nullable=False),
)
#: The last edits by their identity, and which of their operations were refused, as `[place,
#: reason]`.
EDITS = Table(
    "edits",
    METADATA,
    Column("id", Integer, primary_key=True),
    Column("uid", Text, nullable=False),
    Column("refused", Text, nullable=False),
)
SETTINGS = Table(
    "settings",
    METADATA,
    Column("name", Text, primary_key=True),
    Column("value", Text, nullable=False),
)
PARTS = Table(
    "parts",
    METADATA,
    Column("id", Integer, primary_key=True),
    Column("uid", Text, nullable=False),
    Column("kind", Text, nullable=False),
    Column("name", Text, nullable=False),
    Column("spec", Text, nullable=False),
    Column("low_at", Float, nullable=False),
    Column("retired", Integer, nullable=False),
    Column("changed_at", Text, nullable=False),
)
#: Every level of stock is the sum of its movements; nothing else says how much is on hand.
MOVEMENTS = Table(
    "movements",
    METADATA,
    Column("id", Integer, primary_key=True),
    Column("uid", Text, nullable=False),
    Column("part_uid", Text, nullable=False),
    Column("at", Text, nullable=False),
    Column("amount", Float, nullable=False),
    Column("reason", Text, nullable=False),
    Column("job_uid", Text),
    Column("wheel_id", Text),
    Column("stage", Text),
)
