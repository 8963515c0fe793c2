# `make start` and `make test` do all the set-up on a fresh machine. See README.md.

# Tools that scripts/setup.sh had to bring because the system's are too old.
export PATH := $(CURDIR)/var/tools/node_modules/.bin:$(PATH)

.PHONY: start build test lint bench screenshots

start: build
	target/release/clear-bend serve

build:
	scripts/setup.sh
	cargo xtask web
	cargo build --release --locked --package clear-bend-app

test:
	scripts/setup.sh browser
	cargo xtask web
	cargo test --workspace --locked -- --nocapture

lint:
	cargo fmt --all --check
	cargo clippy --workspace --all-targets --locked -- -D warnings
	cd web && npm run --silent check && npm run --silent lint

bench:
	cargo bench --package clear-bend-core

screenshots:
	scripts/setup.sh browser
	cargo xtask web
	CLEAR_BEND_SCREENSHOTS=$(CURDIR)/docs/screenshots cargo test --package clear-bend-app --test browser
