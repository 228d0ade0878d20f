#!/usr/bin/env bash
# Takes the pictures of the README from the demo, in databases of their own.
set -euo pipefail
cd "$(dirname "$0")/.."
free() { python3 -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }
export ORARIO_DB ORARIO_DEMO=true ORARIO_LOG=ERROR ORARIO_ADDR=127.0.0.1:$(free) ORARIO_CAMPUS_ADDR=127.0.0.1:$(free) ORARIO_CAMPUS_MAIL_ADDR=127.0.0.1:$(free)
home=$(mktemp -d)
children=()
trap 'for child in "${children[@]}"; do kill "$child" || true; done; wait; scripts/mariadb.sh stop "$home"; rm -rf "$home"' EXIT
ORARIO_DB=$(scripts/mariadb.sh start "$home")
bin/orario demo
bin/orario campus & children+=($!)
bin/orario serve & children+=($!)
until curl -fs -o /dev/null "http://$ORARIO_ADDR/healthz"; do sleep 0.1; done
go run ./e2e/screenshots -base "http://$ORARIO_ADDR"
