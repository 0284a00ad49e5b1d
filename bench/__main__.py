"""Run every measurement: `make bench`."""

from bench import compose, million

for measure in (compose, million):
    measure.main()
