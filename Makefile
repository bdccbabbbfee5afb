# Two commands matter: make demo, make test. Both install what is missing.

export GOFLAGS := -trimpath -buildvcs=false
GO_TEST := go test -timeout 20m
WEB := $(shell find web/src web/index.html web/vite.config.ts web/package-lock.json -type f)

# Chromium's profiles are written much and kept never: in memory where there is room.
QUICK_TMP := $(shell [ "$$(df -k --output=avail /dev/shm 2>/dev/null | tail -1)" -gt 2000000 ] 2>/dev/null && echo /dev/shm || echo /tmp)

.PHONY: demo dev test beside vitest units schedule-a schedule-b crowds journeys-a journeys-b bench soak build generate stale lint fuzz pictures needs

demo: build
	@RESET=$(RESET) ./bin/jembro demo

# The interface with hot reload, on a demo that runs: make demo in another window. PORT is that of the
# demo; what a browser needs without a script comes from the program itself.
dev: web/node_modules/.package-lock.json
	cd web && PORT=$(or $(PORT),8800) npm run -s dev

# The journeys wait more than they work: two halves of them go beside each other, each with a program and
# a browser of its own, and what needs no clock fills the time between at the lowest priority. Where one of these
# ends, what waits for things that are done by themselves goes on in its place. Memory is there to be used: what
# is built and tried collects its garbage a quarter as often.
test: export GOGC = 400
test: build
	$(MAKE) --no-print-directory -j3 -Otarget journeys-a journeys-b beside schedule-a schedule-b crowds

beside:
	nice -n 19 $(MAKE) --no-print-directory lint stale vitest units

vitest: web/node_modules/.package-lock.json
	cd web && npx vitest run

# What does nothing at the same time has no race to find: the rules, and reading and writing iCalendar.
# The rest runs them with the detector, too. What runs last is made meanwhile.
ALONE := ./internal/core/... ./internal/ical/...

units:
	$(GO_TEST) $(ALONE)
	$(GO_TEST) -race $$(go list ./... | grep -v -e /test/ -e /internal/core/ -e /internal/ical -e internal/schedule$$ -e internal/web$$)
	go test -race -c -o /dev/null ./internal/schedule ./internal/web

schedule-a:
	$(GO_TEST) -race -run '^TestA' ./internal/schedule
	$(GO_TEST) -race ./internal/web

schedule-b:
	$(GO_TEST) -race -skip '^TestA' ./internal/schedule

crowds:
	TMPDIR=$(QUICK_TMP) $(GO_TEST) ./test/crowd ./test/killed

journeys-a:
	TMPDIR=$(QUICK_TMP) $(GO_TEST) -run '^TestA' ./test/e2e

journeys-b:
	TMPDIR=$(QUICK_TMP) $(GO_TEST) -skip '^TestA' ./test/e2e

build: bin/jembro

bin/jembro: web/dist/index.html $(shell find cmd internal web/embed.go -type f) go.mod go.sum | needs
	go build -o $@ ./cmd/jembro

web/dist/index.html: $(WEB) web/node_modules/.package-lock.json
	cd web && npm run -s build
	@touch web/dist/.gitkeep $@

web/node_modules/.package-lock.json: web/package-lock.json web/package.json | needs
	@echo "Installing the npm packages of the interface"
	cd web && npm ci --no-audit --no-fund
	@touch $@

needs:
	@scripts/needs

# What is made from the contract and the queries is committed; stale tells when
# it is not what would be made now.
generate: web/node_modules/.package-lock.json
	cd tools && go build -o ../bin/ github.com/oapi-codegen/oapi-codegen/v2/cmd/oapi-codegen github.com/sqlc-dev/sqlc/cmd/sqlc
	scripts/contract > bin/contract.yaml
	bin/oapi-codegen -config api/server.yaml bin/contract.yaml
	cd internal/postgres && ../../bin/sqlc generate
	cd web && npm run -s types
	scripts/generated record

stale:
	scripts/generated check

# staticcheck looks at what is not made; of that, the writing of the contract's errors is oapi-codegen's.
bin/staticcheck: tools/go.mod tools/go.sum
	cd tools && go build -o ../bin/ honnef.co/go/tools/cmd/staticcheck

lint: bin/staticcheck
	@test -z "$$(gofmt -l cmd internal test web/embed.go)" || { gofmt -l cmd internal test web/embed.go; echo "gofmt these files"; exit 1; }
	go vet ./...
	bin/staticcheck ./...
	cd web && npm run -s lint

fuzz: needs
	go test -run NONE -fuzz FuzzReadReply -fuzztime 60s ./internal/ical
	go test -run NONE -fuzz FuzzReadCalendar -fuzztime 60s ./internal/ical
	go test -run NONE -fuzz FuzzReadInvitations -fuzztime 60s ./internal/ical
	go test -run NONE -fuzz FuzzReadFile -fuzztime 60s ./internal/ical
	go test -run NONE -fuzz FuzzReadMessage -fuzztime 60s ./internal/mail
	go test -run NONE -fuzz FuzzReports -fuzztime 60s ./internal/mail
	go test -run NONE -fuzz FuzzParseRule -fuzztime 60s ./internal/core/recur
	go test -run NONE -fuzz FuzzParseWords -fuzztime 60s ./internal/core/recur
	go test -run NONE -fuzz FuzzRead -fuzztime 60s ./internal/core/typed
	go test -run NONE -fuzz FuzzRead -fuzztime 60s ./internal/core/join
	go test -run NONE -fuzz FuzzLinks -fuzztime 60s ./internal/core/join
	go test -run NONE -fuzz FuzzDescription -fuzztime 60s -fuzzminimizetime 1s ./internal/conference
	go test -run NONE -fuzz FuzzPeople -fuzztime 60s ./internal/core/typed
	go test -run NONE -fuzz FuzzLook -fuzztime 60s ./internal/core/attachment

# Speed is compared with something else in the same run, never asserted.
bench: needs
	go test -run NONE -bench . ./internal/core/join ./internal/conference ./internal/core/availability ./internal/core/recur ./internal/core/meeting ./internal/ical ./internal/mail ./internal/schedule
	go test -run NONE -bench . -benchtime 50x ./test/bench # fills a database of five million rows once, in JEMBRO_BENCH_DIR

# A thousand rounds of everybody at one thing in the same moment, a thousand random stories of
# who is asked to which date, and a thousand of meetings that calendars of others read.
soak: needs
	JEMBRO_SOAK=1000 go test -v -timeout 3h -run 'OneBooking|Answers|Changes|TwoWindows|Nobody|EveryReader' ./internal/schedule
	JEMBRO_SOAK=1000 go test -v -timeout 3h -run TestACalendarOfMessagesAlone ./internal/ical

pictures: build
	JEMBRO_PICTURES=$(CURDIR)/docs/screenshots TMPDIR=$(QUICK_TMP) $(GO_TEST) -count=1 -run TestPictures ./test/e2e
