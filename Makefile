# Largo: `make demo` to try it, `make test` to check it.
.PHONY: demo build test check bench screenshots fuzz

build:
	@echo "largo: building (the first time takes about two minutes)"
	@go build -o bin/largo ./cmd/largo

# Installs what is missing, builds, and serves the demo tour on 127.0.0.1.
demo:
	@scripts/install.sh
	@$(MAKE) --no-print-directory build
	@exec bin/largo demo

# Everything the tests need is installed and started by themselves.
test:
	@scripts/install.sh test
	@echo "largo: building and testing"
	@go test -timeout 40m ./...

# What is checked before a change is taken: form, vet and staticcheck.
check:
	@test -z "$$(gofmt -l .)" || { echo "gofmt would change:"; gofmt -l .; exit 1; }
	@go vet ./...
	@go tool staticcheck ./...

# The figures of the README, measured.
bench:
	@scripts/install.sh test
	go test -run '^$$' -bench . -benchtime 2s ./core/survey ./web ./exchange

# Takes the pictures of docs/screenshots from the demo tour.
screenshots:
	@scripts/install.sh test
	LARGO_SCREENSHOTS=$(CURDIR)/docs/screenshots go test -count=1 -timeout 40m -run TestScreenshots ./web/browsertest

# Longer than the tests fuzz: each reader of files for a minute.
fuzz:
	for f in FuzzReadRig FuzzReadGearTable FuzzReadGearWorkbook FuzzReadCurve FuzzReadStock; do go test -run '^$$' -fuzz "^$$f$$" -fuzztime 60s -fuzzminimizetime 100x ./exchange || exit 1; done
