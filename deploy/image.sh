#!/usr/bin/env bash
# Builds the root file system of an image with Zetopsis and PostgreSQL in it, from Debian's packages only, into a folder or a tar file.
#   deploy/image.sh FOLDER            as root, with debootstrap; takes some minutes and about 1.5 GB
#   tar -C FOLDER -c . > zetopsis.tar whatever runs images imports this; start /opt/zetopsis/deploy/run-image.sh, keep /var/lib
# Not tried yet, beyond that bash reads it: neither the tree nor an engine for images. It needs Debian's release with Node.js 20 or newer.
set -euo pipefail
folder=${1:?name the folder to build in}
release=${RELEASE:-trixie}
here=$(cd "$(dirname "$0")/.." && pwd)

debootstrap --variant=minbase --include=nodejs,npm,postgresql,ca-certificates,tzdata "$release" "$folder" ${MIRROR:-}
mkdir -p "$folder/opt/zetopsis"
git -C "$here" archive HEAD | tar -x -C "$folder/opt/zetopsis"
# what needs no network in the image: packages and the build are made here, where npm is set up
if [ -d "$here/node_modules" ]; then cp -a "$here/node_modules" "$folder/opt/zetopsis/node_modules"; fi
chroot "$folder" /bin/sh -c 'cd /opt/zetopsis && npm run build'
chroot "$folder" adduser --system --group --no-create-home --home /var/lib/zetopsis zetopsis
mkdir -p "$folder/var/lib/zetopsis"
chroot "$folder" chown zetopsis:zetopsis /var/lib/zetopsis
echo "built in $folder; it starts with /opt/zetopsis/deploy/run-image.sh"
