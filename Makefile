# Idle Hiss. On a fresh machine `make demo` and `make test` do all set-up themselves.
# Needs Go, Node with npm, and for the browser tests a Debian to install Chromium on.
SHELL := /bin/bash
# One set of flags for everything, so that nothing is compiled twice; the race detector
# alone needs cgo.
export GOFLAGS     := -trimpath -tags=nomsgpack
export CGO_ENABLED := 0
SUDO  := $(shell [ "$$(id -u)" = 0 ] || echo sudo)

# What the program is built from, files that git does not know yet among them.
SOURCES = git ls-files --cached --others --exclude-standard -- '*.go' '*.yaml' '*.sql' '*.html' '*.schema.json' go.mod go.sum

.PHONY: build demo dev test go-test race fuzz lint types types-current licences bench soak study bigshop load shots browser clean

build: bin/idlehiss

bin/idlehiss: ui/dist/index.html $(shell $(SOURCES) 2>/dev/null)
	go build -ldflags '-s -w' -o $@ ./cmd/idlehiss

demo: build
	./bin/idlehiss demo

# The demo shop while it is worked on: the page reloads itself at http://127.0.0.1:5173,
# the server is built again and restarted when a Go or circuit file changes.
dev: ui/dist/index.html
	@trap 'kill 0' EXIT; (cd ui && npm run --silent dev) & \
	while true; do \
	  $(MAKE) --silent bin/idlehiss && { ./bin/idlehiss demo & server=$$!; } || server=; \
	  was="$$($(SOURCES) | xargs -d '\n' stat -c '%n %Y' 2>/dev/null | cksum)"; \
	  while [ "$$($(SOURCES) | xargs -d '\n' stat -c '%n %Y' 2>/dev/null | cksum)" = "$$was" ]; do sleep 1; done; \
	  [ -z "$$server" ] || { kill $$server; wait $$server 2>/dev/null; }; \
	done

ui/node_modules/.ready: ui/package-lock.json
	cd ui && npm ci --no-audit --no-fund
	touch $@

ui/dist/index.html: ui/node_modules/.ready $(shell find ui/src ui/public ui/index.html ui/*.ts ui/*.js -type f 2>/dev/null)
	cd ui && npm run --silent build

# The browser that the tests drive, from Debian.
browser:
	@command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || \
	  ($(SUDO) apt-get update -q && $(SUDO) apt-get install -y -q --no-install-recommends chromium-headless-shell)

test: build browser lint go-test fuzz

# What the browser drives is a process of its own; all else runs with the race detector.
# SQLite's translated C is left out of it: it guards itself, and is slow to compile and
# run so; and the cipher behind PINs, which takes its time by intent. What else were left
# out could bring its own copy of a generic of the standard library, whose order the
# detector would then not see.
# The long tests of core, which run one thing at a time, run without it; `make race` leaves
# nothing out. Some tests mostly wait, so there are more of them at once than processors.
RACE    = CGO_ENABLED=1 go test -race -gcflags='modernc.org/sqlite/lib=-race=false' -gcflags='golang.org/x/crypto/blowfish=-race=false' -timeout 40m
CORE    = $(filter idlehiss/core/%,$(shell go list ./...))
BROWSER = idlehiss/browser
go-test:
	$(RACE) -p 3 $(filter-out $(BROWSER) $(CORE),$(shell go list ./...))
	$(RACE) -short $(CORE)
	go test -timeout 40m -parallel 3 $(BROWSER) $(CORE)

race:
	$(RACE) $(filter-out $(BROWSER),$(shell go list ./...))

# What files and readings nobody would write do to the readers of them.
FUZZTIME ?= 5s
fuzz:
	go test -run '^$$' -fuzz FuzzReadCSV -fuzztime $(FUZZTIME) ./core/trace
	go test -run '^$$' -fuzz FuzzJudge -fuzztime $(FUZZTIME) ./core/judge

# Rooms whose files a reader can follow downwards: none uses, by way of others, itself.
ROOMS = ./desk ./snapshot ./catalogue ./kit ./holds ./eye ./trail ./jobs ./door ./record ./shop

lint: ui/dist/index.html types-current
	@out="$$(gofmt -l $$(git ls-files '*.go'))"; [ -z "$$out" ] || { echo "not formatted: $$out"; exit 1; }
	go vet ./...
	go mod tidy -diff
	go tool -modfile=tools/go.mod staticcheck -tags nomsgpack ./...
	go vet -C tools ./...
	go run -C tools ./rooms $(ROOMS)
	cd ui && npm run --silent lint && npm run --silent check

# Go handlers describe the interface; the page's types are made from it.
types: ui/node_modules/.ready
	go run ./cmd/idlehiss schema http > web/openapi.json.part && mv web/openapi.json.part web/openapi.json
	cd ui && npm run --silent types && sed -i '1i // Code generated from web/openapi.json by make types. DO NOT EDIT.' src/lib/api/schema.d.ts

types-current: ui/node_modules/.ready
	@old="$$(mktemp -d)" && cp web/openapi.json ui/src/lib/api/schema.d.ts "$$old" && $(MAKE) --silent types >/dev/null && \
	  diff -q "$$old/openapi.json" web/openapi.json && diff -q "$$old/schema.d.ts" ui/src/lib/api/schema.d.ts || \
	  { echo "generated types were not current: run 'make types' and commit them"; exit 1; }

licences: ui/node_modules/.ready
	go build -C tools -o ../bin/licences ./licences && ./bin/licences > ui/public/licences.txt.part && mv ui/public/licences.txt.part ui/public/licences.txt

bench:
	go test -run '^$$' -bench . -benchmem ./core/... ./shop

# What docs/keeping.md and docs/SECURITY.md tell of: fifty kills under load, a disk that fills up, a hundred thousand
# requests that nobody would send, and changed bundles. Some minutes.
soak:
	go test ./cmd/idlehiss -run KillsLose -v -soak 50 -timeout 30m
	go test ./cmd/idlehiss -run FullOrReadOnly -v
	go test ./web -run NoRequestBreaks -v -requests 100000 -timeout 60m
	go test ./demo -run AChangedBundle -v -mutants 1500 -timeout 60m

# Plays the judge against thousands of holds and writes docs/judge.md: some minutes.
study:
	go build -C tools -o ../bin/judgestudy ./judgestudy
	./bin/judgestudy
	./bin/judgestudy --circuit --each 350
	./bin/judgestudy --camera --each 150
	go build -C tools -o ../bin/huntstudy ./huntstudy
	./bin/huntstudy --each 60

# A shop of years, for those who work on its speed: some minutes and eight gigabytes.
JOBS ?= 100000
BIG  ?= data/bigshop-$(JOBS)
bigshop: $(BIG)/idlehiss.db

$(BIG)/idlehiss.db:
	rm -rf $(BIG) && go run ./cmd/bigshop --jobs $(JOBS) $(BIG)

# The tables of docs/speed.md: the big shop asked from outside; then twelve gauges and thirty, with a page open and a
# reader of long sheets beside them.
GAUGES_FOR ?= 10m
load: build browser bigshop
	go run ./cmd/load $(BIG)
	go test ./browser -count=1 -timeout 40m -v -run TwelveGauges -gauges-for $(GAUGES_FOR) -gauges 12
	go test ./browser -count=1 -timeout 40m -v -run TwelveGauges -gauges-for $(GAUGES_FOR) -gauges 30
	go test ./browser -count=1 -timeout 40m -v -run TwelveGauges -gauges-for 1m -gauges-in $(CURDIR)/$(BIG)

shots: build browser
	SHOTS=$(CURDIR)/docs/screenshots go test -count=1 -run TestScreenshots ./browser

clean:
	rm -rf bin ui/dist/* ui/node_modules
	touch ui/dist/.gitkeep
