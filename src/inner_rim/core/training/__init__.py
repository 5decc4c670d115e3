"""Training: wheels with a hidden truth, what they answer, the best sequence, the debrief, an
apprentice's progress.
"""
