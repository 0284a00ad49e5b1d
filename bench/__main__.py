"""Run every measurement: `make bench`."""

from bench import audience, compose, demo, million

for measure in (compose, demo, million, audience):
    measure.main()
