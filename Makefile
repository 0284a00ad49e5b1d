# Two commands are enough on a fresh Debian machine: `make demo` and `make test`.
.PHONY: setup demo demo-reset test endurance check client screenshots bench mutation clean

# What is said to begin again after a step of the set-up was broken off.
AGAIN = "make $(or $(MAKECMDGOALS),setup)"

setup: ## all dependencies and the built front end
	@scripts/bootstrap app $(AGAIN)

demo: setup ## everything on loopback, with the museum's data; Ctrl C stops it
	@.venv/bin/uvarovite demo

demo-reset: setup ## the same, from the beginning
	@.venv/bin/uvarovite demo --reset

test: ## every check and every test
	@scripts/bootstrap test $(AGAIN)
	@scripts/test

endurance: ## 5,000 messages, 50 killed workers, a killed database, cut links (as root), limits by the clock; takes a while
	@scripts/bootstrap test $(AGAIN)
	@UVAROVITE_ENDURANCE=1 .venv/bin/python -m pytest tests/road/test_endurance.py tests/road/test_three_hosts.py -v

check: ## linters and types only
	@scripts/bootstrap test $(AGAIN)
	@scripts/check

client: ## the front end's API types, from the server's own description
	@scripts/api-client

screenshots: ## docs/screenshots, made anew from the demo's data
	@scripts/bootstrap test $(AGAIN)
	@.venv/bin/python scripts/screenshots.py

bench: ## measurements; see bench/README.md
	@scripts/bootstrap test $(AGAIN)
	@.venv/bin/python -m bench

mutation: ## changes conditions one at a time and prints which no test notices; slow (SAMPLE=60, ONLY=part of a path)
	@scripts/bootstrap test $(AGAIN)
	@.venv/bin/python scripts/mutation.py --sample $(or $(SAMPLE),60) --only "$(ONLY)"

clean: ## what was installed and built; the demo's data stays
	rm -rf .venv web/node_modules web/dist
