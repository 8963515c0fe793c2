# `make start` and `make test` do all the set-up on a fresh machine. See README.md.

# Tools that scripts/setup.sh had to bring because the system's are too old.
export PATH := $(CURDIR)/var/tools/node_modules/.bin:$(PATH)

.PHONY: start build test explore lint bench figures screenshots

start: build
	target/release/clear-bend serve

build:
	scripts/setup.sh
	cargo xtask web
	cargo build --release --locked --package clear-bend-app

# All is built once, the chores among it: by themselves they would be built with other features, and so twice.
# The same cases of property tests every time; `make explore` looks for others.
test: export PROPTEST_RNG_SEED ?= 20261126
test:
	scripts/setup.sh browser
	cargo build --workspace --bins --tests --locked
	target/debug/xtask web
	cargo test --workspace --locked -- --nocapture

# Property tests on new cases, again and again; what fails is kept beside the tests and run from then on. What is told is held against
# readings of its own in 5,000 cases each.
explore: CORE = $(patsubst crates/core/%,--package clear-bend-%,$(wildcard crates/core/*))
explore: export CLEAR_BEND_CASES ?= 10
explore:
	for round in 1 2 3 4 5; do PROPTEST_RNG_SEED=$$(date +%s) cargo test $(CORE) --locked -- any_ every_ round || exit 1; done

lint:
	cargo fmt --all --check
	cargo clippy --workspace --all-targets --locked -- -D warnings
	cd web && npm run --silent check && npm run --silent lint
	if command -v cargo-deny >/dev/null; then cargo deny --offline check bans licenses sources; fi

bench:
	cargo bench --package clear-bend-explaining

# What docs/performance.md says of the browser, one after the other on a machine that does nothing else.
figures:
	scripts/setup.sh browser
	cargo xtask web
	cargo test --package clear-bend-app --test browser -- --ignored --nocapture --test-threads 1 figures

screenshots:
	scripts/setup.sh browser
	cargo xtask web
	CLEAR_BEND_SCREENSHOTS=$(CURDIR)/docs/screenshots cargo test --package clear-bend-app --test browser
