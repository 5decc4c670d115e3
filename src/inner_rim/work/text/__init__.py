"""Words for what the computations say, without Qt."""
