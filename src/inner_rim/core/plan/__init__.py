"""Composes the models: a wheel from its inputs to every figure, and what follows from it."""
