#!/usr/bin/env bash
# Runs Orario and the practice campus with the demo, until Ctrl-C. The first time it loads the demo.
set -euo pipefail
cd "$(dirname "$0")/.."
export ORARIO_DB ORARIO_DEMO=true ORARIO_ALLOW_INTERNAL=true ORARIO_CAMPUS_MAIL_ADDR=${ORARIO_CAMPUS_MAIL_ADDR:-127.0.0.1:8425} ORARIO_SMTP=${ORARIO_SMTP:-${ORARIO_CAMPUS_MAIL_ADDR:-127.0.0.1:8425}} ORARIO_MAIL_FROM=${ORARIO_MAIL_FROM:-reminders@orario.example} ORARIO_ADDR=${ORARIO_ADDR:-127.0.0.1:8420} ORARIO_CAMPUS_ADDR=${ORARIO_CAMPUS_ADDR:-127.0.0.1:8421} ORARIO_LOG=${ORARIO_LOG:-WARN}
# Nothing is started, and nothing loaded, where an address is taken already.
python3 scripts/ports.py "ORARIO_ADDR=$ORARIO_ADDR" "ORARIO_CAMPUS_ADDR=$ORARIO_CAMPUS_ADDR" "ORARIO_CAMPUS_MAIL_ADDR=$ORARIO_CAMPUS_MAIL_ADDR" || exit 1
ORARIO_DB=$(scripts/mariadb.sh start var/db)
children=()
stop() {
	trap - EXIT INT TERM
	for child in "${children[@]}"; do kill "$child" 2>/dev/null || true; done
	wait
	scripts/mariadb.sh stop var/db
}
trap 'stop; exit 0' INT TERM
trap stop EXIT
if [ ! -e var/db/demo-loaded ]; then
	echo "Loading the demo: two weeks of a student's life, which takes about ten seconds…"
	bin/orario demo --anew # what an earlier try left half-way goes
	touch var/db/demo-loaded
fi
# up COMMAND URL starts one of both and waits until it answers.
up() {
	bin/orario "$1" &
	children+=($!)
	for _ in $(seq 100); do
		curl -fs -o /dev/null "$2" && return
		kill -0 "${children[-1]}" 2>/dev/null || break
		sleep 0.1
	done
	echo "orario $1 did not start; what it said stands above." >&2
	exit 1
}
up campus "http://$ORARIO_CAMPUS_ADDR/"
up serve "http://$ORARIO_ADDR/healthz"
echo
echo "Orario:           http://$ORARIO_ADDR/          (press “Look around as Nerea Quintal”)"
echo "Practice campus:  http://$ORARIO_CAMPUS_ADDR/   (its clock, its faults, the instructor's desk)"
echo "Ctrl-C ends both."
wait -n
