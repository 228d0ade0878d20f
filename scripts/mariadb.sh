#!/usr/bin/env bash
# Starts and stops a private MariaDB on loopback, with its data in a folder of the checkout.
#   scripts/mariadb.sh start FOLDER   prints the data source name for Go's driver, without a database
#   scripts/mariadb.sh stop FOLDER
set -euo pipefail
action=${1:?start or stop}
mkdir -p "${2:?folder}"
home=$(cd "$2" && pwd)
data=$home/data

# Neither one that has ended and was not collected yet, nor another program to which its number went.
running() { [ -s "$home/pid" ] && [[ $(readlink "/proc/$(cat "$home/pid")/exe" 2>/dev/null) == *mariadbd* ]]; }

case $action in
start)
	if ! running; then
		if [ ! -d "$data/mysql" ]; then
			mariadb-install-db --no-defaults --datadir="$data" --auth-root-authentication-method=normal --skip-test-db --user="$(id -un)" >"$home/install.log" 2>&1 ||
				{ echo "MariaDB could not create its tables; see $home/install.log" >&2; exit 1; }
			head -c 18 /dev/urandom | base64 | tr '+/' 'xy' >"$home/password"
			python3 -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])' >"$home/port"
			cat >"$home/init.sql" <<-SQL
				CREATE USER IF NOT EXISTS 'orario'@'127.0.0.1' IDENTIFIED BY '$(cat "$home/password")';
				GRANT ALL ON \`orario%\`.* TO 'orario'@'127.0.0.1';
				DROP USER IF EXISTS 'root'@'localhost';
			SQL
			chmod 600 "$home/password" "$home/init.sql"
		fi
		# Durable at every commit; strict; UTC; packets and redo log large enough for file contents. A folder of its own for what is
		# temporary: a server that starts clears it, and would clear that of another one beside it.
		mkdir -p "$home/tmp"
		setsid mariadbd --no-defaults --user="$(id -un)" --datadir="$data" --tmpdir="$home/tmp" --socket=sock --pid-file="$home/pid" --log-error="$home/error.log" \
			--bind-address=127.0.0.1 --port="$(cat "$home/port")" --skip-name-resolve --init-file="$home/init.sql" \
			--innodb-flush-log-at-trx-commit=1 --sync-binlog=1 --innodb-buffer-pool-size=256M --innodb-log-file-size=256M \
			--max-allowed-packet=16M --character-set-server=utf8mb4 --collation-server=utf8mb4_unicode_520_ci --default-time-zone=+00:00 \
			--sql-mode=STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO,NO_ZERO_DATE,NO_ZERO_IN_DATE,ONLY_FULL_GROUP_BY \
			--transaction-isolation=READ-COMMITTED --max-connections=200 >/dev/null 2>&1 </dev/null &
		for _ in $(seq 300); do
			if running && (exec 3<>"/dev/tcp/127.0.0.1/$(cat "$home/port")") 2>/dev/null; then break; fi
			sleep 0.1
		done
		running || { echo "MariaDB did not start; see $home/error.log" >&2; exit 1; }
	fi
	echo "orario:$(cat "$home/password")@tcp(127.0.0.1:$(cat "$home/port"))/"
	;;
stop)
	if running; then
		pid=$(cat "$home/pid")
		kill "$pid"
		for _ in $(seq 300); do running || break; sleep 0.1; done
	fi
	;;
*)
	echo "usage: scripts/mariadb.sh start|stop FOLDER" >&2
	exit 2
	;;
esac
