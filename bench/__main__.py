"""Run every measurement: `make bench`."""

from bench import audience, compose, million

for measure in (compose, million, audience):
    measure.main()
