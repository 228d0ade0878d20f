#!/usr/bin/env bash
# Everything that has to hold: generated code is fresh, lint, Go tests on a real MariaDB and in a real
# browser, front-end checks and tests. It stops what it starts.
set -euo pipefail
cd "$(dirname "$0")/.."
step() { printf '\n== %s\n' "$1"; }
export ORARIO_TEST_DB ORARIO_BINARY=$PWD/bin/orario
trap 'scripts/mariadb.sh stop var/test-db' EXIT
ORARIO_TEST_DB=$(scripts/mariadb.sh start var/test-db)

step "generated code is fresh"
fresh=$(mktemp -d)
trap 'rm -rf "$fresh"; scripts/mariadb.sh stop var/test-db' EXIT
generated="internal/mariadb/query internal/httpapi/api internal/campus/campusapi internal/courier/campusapi web/src/api/schema.d.ts"
cp -r --parents $generated "$fresh"
make --no-print-directory -s generate >/dev/null 2>&1
for path in $generated; do
	diff -r "$fresh/$path" "$path" >/dev/null || { echo "$path was stale; it is fresh now. Commit it." >&2; exit 1; }
done
python3 scripts/licences.py --check

step "lint"
test -z "$(gofmt -l core internal cmd demo e2e web/embed.go)" || { echo "run gofmt on:"; gofmt -l core internal cmd demo e2e web/embed.go; exit 1; }
go vet ./...
staticcheck -checks 'inherit,-ST1005' ./... # the generator capitalises its errors
depguard ./...
revive -config revive.toml -exclude 'internal/mariadb/query/...' ./core/... ./internal/... ./cmd/... ./demo/... ./e2e/...

step "front end"
(cd web && npx tsc --noEmit && npx prettier --check --log-level warn . && npx eslint . && npx vitest run --reporter=dot)

step "Go"
go test -count=1 -timeout 12m ./...
