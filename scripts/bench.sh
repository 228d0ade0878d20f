#!/usr/bin/env bash
# Benchmarks: similarity, inspection, planning, reading, the Horizon, submissions. Ratios within one run are what counts; machines differ.
set -euo pipefail
cd "$(dirname "$0")/.."
export ORARIO_TEST_DB
trap 'scripts/mariadb.sh stop var/test-db' EXIT
ORARIO_TEST_DB=$(scripts/mariadb.sh start var/test-db)
go test -run '^$' -bench 'Fingerprint|Normalise' -count 5 ./core/similarity
go test -run '^$' -bench 'Check10000' -benchmem ./core/similarity
go test -run '^$' -bench Stored -benchtime 3x ./core/similarity
go test -run '^$' -bench . -benchtime 5x ./core/imaging
go test -run '^$' -bench . -benchmem ./core/inspect
go test -run '^$' -bench . -count 3 ./core/planner ./core/brief/prose ./core/calendar
go test -run '^$' -bench 'Horizon|Desk$|Load300' -benchtime 100x -count 3 ./internal/schedule ./internal/desk ./internal/roster
ORARIO_BINARY=$PWD/bin/orario go test -run '^$' -bench Dragging -benchtime 3x ./e2e
go test -run '^$' -bench . -benchtime 3x ./internal/convert
go test -run '^$' -bench Upload -benchtime 3x ./internal/contents
go test -run '^$' -bench Accepted -benchtime 200x ./internal/submit
echo "First screen, compressed scripts:"
for name in $(grep -oE 'assets/[^"]+\.js' web/dist/index.html); do gzip -9c "web/dist/$name" | wc -c; done | awk '{ sum += $1 } END { printf "%.0f kB\n", sum / 1000 }'
