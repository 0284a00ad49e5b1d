"""Run every measurement, or those that are named: `make bench`, `python -m bench compose proofs`."""

import sys

from bench import audience, compose, demo, letters, million, proofs, run, typing

for measure in (compose, proofs, letters, typing, demo, million, audience, run):
    if not sys.argv[1:] or measure.__name__.rpartition(".")[2] in sys.argv[1:]:
        measure.main()
