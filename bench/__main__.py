"""Run every measurement: `make bench`."""

from bench import audience, compose, demo, million, proofs, run

for measure in (compose, proofs, demo, million, audience, run):
    measure.main()
