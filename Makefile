# make demo   installs what lacks, builds, and runs Orario with its demo and the practice campus
# make test   the same set-up, then every check
SHELL := /bin/bash -o pipefail
TOOLS := var/tools
export PATH := $(CURDIR)/$(TOOLS):$(PATH)
SOURCES := $(shell find core internal cmd demo web/embed.go go.mod go.sum -name '*.go' -o -name '*.sql' -o -name '*.html' -o -name '*.tsv' -o -name 'go.*' 2>/dev/null)
PAGES := $(shell find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f 2>/dev/null)

.PHONY: demo test build bench screenshots generate audit torture setup tools clean

demo: setup bin/orario
	@scripts/demo.sh

build: bin/orario

bin/orario: $(SOURCES) web/dist/index.html
	@test -e $@ || echo "Step 4 of 4: building Orario. The first time Go fetches and builds all that it is made of, about three minutes."
	go build -o $@ ./cmd/orario

web/node_modules/.package-lock.json: web/package-lock.json
	@test -e $@ || echo "Step 2 of 4: fetching what the pages are built with, about a minute."
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.package-lock.json $(PAGES)
	@test -e web/dist/index.html || echo "Step 3 of 4: building the pages, about half a minute."
	cd web && npx tsc --noEmit && npx vite build --logLevel=warn
	@touch web/dist/.keep

setup:
	@scripts/setup.sh

# The generators and linters, at the versions of tools/go.mod.
tools: $(TOOLS)/sqlc
$(TOOLS)/sqlc: tools/go.mod tools/go.sum
	mkdir -p $(TOOLS)
	cd tools && go build -o ../$(TOOLS)/ github.com/sqlc-dev/sqlc/cmd/sqlc github.com/oapi-codegen/oapi-codegen/v2/cmd/oapi-codegen \
		github.com/OpenPeeDeeP/depguard/v2/cmd/depguard honnef.co/go/tools/cmd/staticcheck github.com/mgechev/revive
	@touch $@

generate: tools web/node_modules/.package-lock.json
	cd internal/mariadb && sqlc generate
	oapi-codegen -config api/orario-server.yaml api/orario.yaml
	oapi-codegen -config api/campus-server.yaml api/campus.yaml
	oapi-codegen -config api/campus-client.yaml api/campus.yaml
	cd web && npx openapi-typescript ../api/orario.yaml -o src/api/schema.d.ts
	go test ./internal/convert ./core/brief -run TestKindsOfTheInterface -args -update
	cd web && npx prettier --write src/shared/kinds.json src/add/kinds.json

test: setup tools bin/orario
	@scripts/test.sh

bench: setup bin/orario
	@scripts/bench.sh

# Thousands of submissions over a bad line while programs are killed; takes its time. make torture MORE='-submissions 20000'
torture: setup bin/orario
	go run ./e2e/torture $(MORE)

audit: setup web/node_modules/.package-lock.json
	@scripts/audit.sh

screenshots: setup bin/orario
	@scripts/screenshots.sh

clean:
	rm -rf bin web/dist/assets web/dist/index.html
