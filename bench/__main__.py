"""Run every measurement: `make bench`."""

from bench import audience, compose, demo, million, run

for measure in (compose, demo, million, audience, run):
    measure.main()
