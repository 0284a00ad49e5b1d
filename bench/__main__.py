"""Run every measurement: `make bench`."""

from bench import audience, compose, demo, letters, million, proofs, run

for measure in (compose, proofs, letters, demo, million, audience, run):
    measure.main()
