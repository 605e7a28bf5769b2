# Yugen. `make` alone lists what can be done.
PORT ?= 8787
DATA ?= data
export PORT DATA

UI := $(shell find ui/src ui/public ui/index.html ui/vite.config.ts -type f 2>/dev/null)
GO := $(shell find . -name node_modules -prune -o -name '*.go' -not -name '*_test.go' -print)

.PHONY: help demo test dev build bench coverage fuzz day kills scale replica load lint check-generated generate format screenshots clean tools browser

help: ## list the targets
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed 's/:.*## /\t/' | expand -t 18

demo: build ## start Yugen with the demo study on 127.0.0.1:$PORT (8787), data in $DATA (data), and three stand-ins for instruments on the ports after it
	@./bin/yugen demo --bench

test: build browser lint check-generated ## run everything that CI runs
	go test -timeout 30m ./...

build: bin/yugen ## one binary with the front end inside

bin/yugen: go.mod go.sum $(GO) server/dist/index.html $(shell find store/migrations report/fonts -type f)
	@$(MAKE) --no-print-directory tools
	CGO_ENABLED=0 go build -o bin/yugen ./cmd/yugen

server/dist/index.html: ui/node_modules/.installed $(UI) docs/help.md
	rm -rf server/dist/assets
	cd ui && npm run --silent build -- --logLevel warn
	@touch server/dist/index.html

ui/node_modules/.installed: ui/package.json ui/package-lock.json
	@$(MAKE) --no-print-directory tools
	cd ui && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

tools:
	@command -v go >/dev/null || { echo "Go is missing: install Go 1.26 or newer, then run make again."; exit 1; }
	@command -v npm >/dev/null || { echo "Node is missing: install Node 20 or newer with npm 11, then run make again."; exit 1; }

# The browser tests need Debian's chromium-headless-shell, or chromium where that is not to be had, and poppler-utils; the tests of netCDF compare with netcdf-bin, those of PDF with qpdf.
browser:
	@install() { \
	  command -v $$2 >/dev/null && return; \
	  command -v apt-get >/dev/null || { echo "$$2 is missing: install Debian's package $$1, or what your system calls it, then run make test again."; return 1; }; \
	  [ "$$(id -u)" = 0 ] || { echo "$$2 is missing: run 'sudo apt-get install $$1', then make test again."; return 1; }; \
	  [ -n "$$updated" ] || { apt-get update -qq && updated=1; }; \
	  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $$1 >/dev/null; \
	}; \
	{ install chromium-headless-shell chromium-headless-shell || install chromium chromium; } && \
	install poppler-utils pdftotext && install netcdf-bin ncdump && install qpdf qpdf

coverage: ## simulate a thousand peaks and batches of each kind and write how often their intervals hold the truth
	go test ./core/peaks -run 'IntervalsOfAreas|FittedAreasInterval' -count=1 -area-runs 150 -fitted-runs 200 -write-area-coverage
	go test ./core/spectra -run PurityBySimulation -count=1 -purity-runs 300
	go test ./core/batch -run IntervalsOf -count=1 -coverage-runs 1000 -write-coverage

FUZZ ?= 10m
fuzz: ## feed every reader and the integration odd input, FUZZ=10m each
	go test ./formats/read -run '^$$' -fuzz FuzzFile -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./formats/text -run '^$$' -fuzz FuzzProfile -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./formats/jcamp -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./formats/mzml -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./formats/readings -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./formats/contents -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./formats/library -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./core/peaks -run '^$$' -fuzz FuzzFind -fuzztime $(FUZZ) -fuzzminimizetime 5s
	go test ./server -run OddRequests -count=1 -odd-rounds 300 -timeout 60m
	go test ./instrument/standin -run '^$$' -fuzz FuzzProtocol -fuzztime $(FUZZ) -fuzzminimizetime 5s

day: ## four instruments work for 24 simulated hours at speed 600, while the program is stopped 20 times
	go test ./lab -run TestFourInstrumentsLoseNoPoint -count=1 -v -timeout 30m -day-hours 24 -day-stops 20

KILLS ?= 200
kills: ## kill the server KILLS=200 times while it takes files in, and while an instrument measures, and check what is left
	go test ./cmd/yugen -run 'KilledAtAnyMoment|KilledWhile' -kill-rounds $(KILLS) -count=1 -timeout 60m

lint: ui/node_modules/.installed ## formatting, vet, linters and type checks
	@test -z "$$(gofmt -l cmd core formats formula bench instrument jobs mailbox people raw store lab receiver report server e2e)" || { echo "not formatted: run make format"; gofmt -l cmd core formats formula bench instrument jobs mailbox people raw store lab receiver report server e2e; exit 1; }
	go vet ./...
	go tool -modfile=tools/go.mod staticcheck ./...
	cd ui && npx eslint src && npx prettier --check --log-level warn src && npx svelte-check --tsconfig ./tsconfig.json --fail-on-warnings

check-generated: ui/node_modules/.installed
	@go run ./cmd/contract | cmp - api/openapi.json || { echo "api/openapi.json is not current: run make generate"; exit 1; }
	@go run ./cmd/contract instruments | cmp - api/instruments.json || { echo "api/instruments.json is not current: run make generate"; exit 1; }
	@cd ui && npx openapi-typescript ../api/openapi.json -o node_modules/.schema.d.ts >/dev/null && cmp node_modules/.schema.d.ts src/api/schema.d.ts || { echo "the front end's types are not current: run make generate"; exit 1; }

generate: ui/node_modules/.installed ## write the contract and the front end's types anew
	go run ./cmd/contract > api/.new && mv api/.new api/openapi.json
	go run ./cmd/contract instruments > api/.new && mv api/.new api/instruments.json
	cd ui && npm run --silent types

format: ui/node_modules/.installed ## format everything
	gofmt -w cmd core formats formula bench instrument jobs mailbox people raw store lab receiver report server e2e
	cd ui && npm run --silent format

dev: build ## live reload: the front end by Vite on 5173, the server behind it
	@./bin/yugen demo & trap "kill $$!" EXIT; cd ui && npx vite --host 127.0.0.1 --port 5173

bench: build browser ## measure the budgets of the house
	@go run ./cmd/measure
	@go test ./lab -run TestALargeFileCostsLittleMemory -large-mb 500 -count=1 -v | grep MB
	@go test ./e2e -run TestMeasure -measure -count=1 -v | grep -E ' (ms|fps)|in the browser'

SCALE ?= 365000
scale: ## five years of a laboratory, SCALE=365000 injections, seeded straight into a store and measured
	go run ./cmd/scale -injections $(SCALE)

replica: bin/litestream ## a second machine goes on from a continuous copy, from end to end
	go test ./cmd/yugen -run TestASecondMachineGoesOn -litestream $(CURDIR)/bin/litestream -count=1 -v

load: ## 50 people who have signed in work for a minute
	go test ./server -run TestManyPeopleWorkAtOnce -load-people 50 -load-seconds 60 -count=1 -v

bin/litestream:
	GOBIN=$(CURDIR)/bin GOFLAGS=-mod=mod go install github.com/benbjohnson/litestream/cmd/litestream@v0.5.18

screenshots: build browser ## make docs/screenshots anew from the demo
	go test ./e2e -run TestScreenshots -screenshots ../docs/screenshots -count=1

clean: ## remove what was built; data stay
	rm -rf bin server/dist/assets server/dist/index.html server/dist/icon.svg ui/node_modules
