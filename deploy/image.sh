#!/usr/bin/env bash
# Builds the root file system of an image with Zetopsis and PostgreSQL in it, from Debian's packages only, into a folder.
#   deploy/image.sh FOLDER            as root, with debootstrap, in a checkout where `npm ci && npm run build` was done; about 1.5 GB
#   tar -C FOLDER -c . > zetopsis.tar whatever runs images imports this; start /opt/zetopsis/deploy/run-image.sh, keep /var/lib
# RELEASE: one of Debian's that has Node.js 20 or newer. MIRROR: where its packages come from, as debootstrap takes it.
set -euo pipefail
folder=${1:?name the folder to build in}
release=${RELEASE:-trixie}
here=$(cd "$(dirname "$0")/.." && pwd)
[ -f "$here/apps/server/dist/main.js" ] || { echo "build it first: npm ci && npm run build"; exit 1; }

debootstrap --variant=minbase "$release" "$folder" ${MIRROR:-}
# what debootstrap cannot work out the needs of, apt can
cp /etc/resolv.conf "$folder/etc/resolv.conf"
mount -t proc proc "$folder/proc"
trap 'umount "$folder/proc"' EXIT
within() { chroot "$folder" /usr/bin/env -i PATH=/usr/sbin:/usr/bin:/sbin:/bin DEBIAN_FRONTEND=noninteractive LANG=C.UTF-8 "$@"; }
within apt-get update -q
# no cluster of PostgreSQL is made while it is installed: run-image.sh makes one where data are kept
mkdir -p "$folder/etc/postgresql-common"
echo 'create_main_cluster = false' > "$folder/etc/postgresql-common/createcluster.conf"
within apt-get install -q -y --no-install-recommends nodejs postgresql ca-certificates tzdata adduser
within apt-get clean
rm -rf "$folder"/var/lib/apt/lists/*

mkdir -p "$folder/opt/zetopsis"
git -C "$here" archive HEAD | tar -x -C "$folder/opt/zetopsis"
# packages and what was built: nothing of it needs the network, or npm, where the image runs
(cd "$here" && tar -c node_modules packages/*/dist apps/*/dist) | tar -x -C "$folder/opt/zetopsis"
within adduser --system --group --no-create-home --home /var/lib/zetopsis zetopsis
install -d "$folder/var/lib/zetopsis"
within chown zetopsis:zetopsis /var/lib/zetopsis
echo "built in $folder; it starts with /opt/zetopsis/deploy/run-image.sh"
