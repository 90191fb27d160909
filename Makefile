# Largo: `make demo` to try it, `make test` to check it.
.PHONY: demo build sums test race check bench judges load screenshots fuzz chaos mutate same

build: sums
	@echo "largo: building (the first time takes about two minutes)"
	@go build -o bin/largo ./cmd/largo

# The sums that run in the browser: the Go code of core/sum, compiled for it. The
# server embeds them; without them the find line asks the server.
sums:
	@GOOS=js GOARCH=wasm go build -trimpath -ldflags="-s -w" -o web/kit/static/sums/sums.wasm ./web/sums/wasm
	@cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/kit/static/sums/

# Installs what is missing, builds, and serves the demo tour on 127.0.0.1.
demo:
	@scripts/install.sh
	@$(MAKE) --no-print-directory build
	@exec bin/largo demo

# Everything the tests need is installed and started by themselves.
test: sums
	@scripts/install.sh test
	@echo "largo: building and testing"
	@# what takes longest begins first
	@go test -timeout 40m ./web/browsertest ./web ./exchange ./cmd/largo ./...

# The tests of the core under the race detector, for its stages run at once.
race:
	@echo "largo: the core under the race detector"
	@go test -race -short ./core/...

# What is checked before a change is taken: form, length, vet and staticcheck.
check:
	@test -z "$$(gofmt -l .)" || { echo "gofmt would change:"; gofmt -l .; exit 1; }
	@! find . -name '*.go' -o -path './web/*.html' -o -path './web/*/*.css' -not -path '*/vendor/*' | \
		LC_ALL=C.UTF-8 xargs grep -nE '^.{121,}' || { echo "these lines are longer than 120 characters"; exit 1; }
	@go vet ./...
	@go tool -modfile=tools/go.mod staticcheck ./...

# The figures of the README, measured.
bench:
	@scripts/install.sh test
	go test -run '^$$' -bench . -benchtime 2s ./core/survey ./core/plan ./core/thermal ./core/feed \
		./core/pack ./web/... ./exchange

# Judges too large for every run: scipy fits what core/thermal fits.
judges:
	@scripts/install.sh judges
	LARGO_JUDGES=1 go test -count=1 -v -run Scipy ./core/thermal

# Takes the pictures of docs/screenshots from the demo tour.
screenshots:
	@scripts/install.sh test
	LARGO_SCREENSHOTS=$(CURDIR)/docs/screenshots go test -count=1 -timeout 40m -run TestScreenshots ./web/browsertest

# 50 readers and 10 editors for 30 s; prints what pages and edits took.
load:
	@scripts/install.sh test
	LARGO_LOAD=1 go test -count=1 -run TestLoad -v ./cmd/largo

# Longer than the tests fuzz: each target for a minute; then every field of the
# demo rigs changed, and every field of every page with every bad value.
fuzz:
	@scripts/install.sh test
	for f in FuzzReadRig FuzzReadChangedRig FuzzReadGear FuzzReadGearTable FuzzReadGearWorkbook FuzzReadCurve \
		FuzzReadStock FuzzOSC; do \
		go test -run '^$$' -fuzz "^$$f$$" -fuzztime 60s -fuzzminimizetime 100x ./exchange \
		|| exit 1; done
	for f in FuzzUnits; do go test -run '^$$' -fuzz "^$$f$$" -fuzztime 60s ./core/unit || exit 1; done
	for f in FuzzSheet FuzzWays; do go test -run '^$$' -fuzz "^$$f$$" -fuzztime 60s ./core/gear || exit 1; done
	for f in FuzzTags; do go test -run '^$$' -fuzz "^$$f$$" -fuzztime 60s ./core/rig || exit 1; done
	for f in FuzzForms; do go test -run '^$$' -fuzz "^$$f$$" -fuzztime 60s ./web || exit 1; done
	LARGO_ALL_CHANGES=1 go test -count=1 -timeout 60m -run TestRigsChangedFieldByField ./exchange
	LARGO_ALL_VALUES=1 go test -count=1 -timeout 60m -run TestEveryFieldMeetsBadValues ./web

# What machines suffer, a hundred times each while editors edit: kill -9 of the
# server, of the database and of its backends, SIGTERM, two servers with every
# edit sent to both, a full disk (as root), four servers starting at once.
chaos:
	@scripts/install.sh test
	LARGO_CHAOS=100 LARGO_ROUNDS=20 go test -count=1 -timeout 40m -v -run 'Chaos|ServersStartTogether' ./cmd/largo ./store

# Breaks rules of the core one at a time and prints which of them no test
# notices; fails when more than one in twenty survives.
mutate:
	go run ./scripts/mutate

# What a refactoring must leave: compares what check, match and every page of the
# demo say with what they said at another commit, BASE.
same:
	@scripts/install.sh test
	go run ./scripts/same $(or $(BASE),HEAD~1)
