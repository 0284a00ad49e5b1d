"""Run every measurement: `make bench`."""

from bench import compose

for measure in (compose,):
    measure.main()
