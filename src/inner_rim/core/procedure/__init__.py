"""The procedure: a wheel's state, actions with needs and gives, recipes by kind of work, and the check."""
