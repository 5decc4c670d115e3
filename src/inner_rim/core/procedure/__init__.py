"""The procedure: a wheel's state, actions with needs and gives, milestones by kind of work, and the
check.
"""
