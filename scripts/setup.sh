#!/usr/bin/env bash
# Installs from Debian's packages what Orario and its tests need and the machine lacks.
set -euo pipefail
need=()
has() { command -v "$1" >/dev/null 2>&1; }
has mariadbd && has mariadb-install-db || need+=(mariadb-server)
has chromium || need+=(chromium)
has soffice || need+=(libreoffice-writer-nogui libreoffice-calc-nogui libreoffice-impress-nogui)
compgen -G '/usr/lib/libreoffice/program/libsmlo.so' >/dev/null || need+=(libreoffice-math-nogui) # formulas
has pandoc || need+=(pandoc)
has pdftotext || need+=(poppler-utils)
has ffprobe || need+=(ffmpeg)
has gs || need+=(ghostscript)
has qpdf || need+=(qpdf)
has exiftool || need+=(libimage-exiftool-perl)
has heif-convert || need+=(libheif-examples)
for language in eng por ita; do
	[ -e /usr/share/tesseract-ocr/5/tessdata/$language.traineddata ] || need+=(tesseract-ocr-$language)
done
has tesseract || need+=(tesseract-ocr)
has bwrap || need+=(bubblewrap)
has setsid && has prlimit || need+=(util-linux)
has curl || need+=(curl)
[ -d /usr/share/fonts/truetype/liberation ] || [ -d /usr/share/fonts/truetype/liberation2 ] || need+=(fonts-liberation)
if [ ${#need[@]} -gt 0 ]; then
	echo "Step 1 of 4: installing from Debian's packages, two to five minutes: ${need[*]}"
	has apt-get || { echo "Orario needs ${need[*]}, and this machine has no apt-get to install them with. Install them yourself." >&2; exit 1; }
	sudo=; [ "$(id -u)" = 0 ] || sudo=sudo
	mkdir -p var
	if ! { $sudo apt-get update -q && $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${need[@]}"; } >var/setup.log 2>&1; then
		echo "Installing ${need[*]} failed; the last lines of var/setup.log say why:" >&2
		tail -n 5 var/setup.log >&2
		exit 1
	fi
fi
for tool in go node npm python3; do
	has $tool || { echo "Orario needs $tool. Install it and try again." >&2; exit 1; }
done
