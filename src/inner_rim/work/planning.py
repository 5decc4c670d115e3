"""The agreed way in for scripts: `inner_rim.work.planning.plan_document` does what ``plan --json``
does.
"""

from inner_rim.work.tasks.planning import plan_document

__all__ = ["plan_document"]
