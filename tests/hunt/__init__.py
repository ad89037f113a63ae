"""A hunt for verdicts that an honest world refutes; run on call, see `tests.hunt.verdicts`."""
