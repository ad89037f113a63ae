"""Hunts for verdicts that an honest world refutes: `pytest tests/hunt --hunt 10000 -s`."""
