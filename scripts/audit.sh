#!/usr/bin/env bash
# Looks for known weaknesses in what ships, where the databases can be reached, and lists the licences anew.
set -uo pipefail
cd "$(dirname "$0")/.."
found=0
python3 scripts/licences.py || found=1
echo "docs/licences.md lists the licences."

said=$(go run golang.org/x/vuln/cmd/govulncheck@v1.1.4 ./... 2>&1)
case $? in
0) echo "Go: no known weakness is reached." ;;
3) found=1; echo "$said" ;;
*) echo "Go: not looked, since the database of weaknesses cannot be reached: $(grep -v '^exit status' <<<"$said" | tail -1)" ;;
esac

said=$(cd web && npm audit --omit=dev 2>&1)
code=$?
if [ $code = 0 ]; then
	echo "npm: no known weakness."
elif grep -q 'audit endpoint returned an error\|ENOTFOUND\|ECONNREFUSED\|ETIMEDOUT' <<<"$said"; then
	echo "npm: not looked, since the database of weaknesses cannot be reached."
else
	found=1
	echo "$said"
fi
exit $found
