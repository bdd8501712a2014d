#!/usr/bin/env bash
# Starts PostgreSQL on loopback and Zetopsis, each as an account of its own; ends when one of them does. What is to be kept lies under /var/lib.
# Tried: the tree that image.sh builds of trixie (PostgreSQL 17, Node.js 20), run in a chroot: begun, ended by TERM, begun again with its data.
set -euo pipefail
data=/var/lib/postgresql/zetopsis
bin=$(ls -d /usr/lib/postgresql/*/bin | tail -1)
as() { setpriv --reuid="$1" --regid="$1" --init-groups "${@:2}"; }

if [ ! -f "$data/PG_VERSION" ]; then
  install -d -o postgres -g postgres -m 700 "$data"
  as postgres "$bin/initdb" -D "$data" --auth-local=trust --auth-host=scram-sha-256 --encoding=UTF8 --locale=C.UTF-8 >/dev/null
fi
install -d -o postgres -g postgres -m 755 /run/zetopsis-postgres
as postgres "$bin/pg_ctl" -D "$data" -w -o "-c listen_addresses= -c unix_socket_directories=/run/zetopsis-postgres" -l "$data/log" start
stop() { as postgres "$bin/pg_ctl" -D "$data" -m fast -w stop || true; }
trap stop EXIT
psql() { as postgres "$bin/psql" -h /run/zetopsis-postgres -qAtc "$1"; }
if [ -z "$(psql "select 1 from pg_roles where rolname = 'zetopsis'")" ]; then
  psql "create role zetopsis login"
  psql "create database zetopsis owner zetopsis"
fi
cd /opt/zetopsis
export NODE_ENV=production HOME=/var/lib/zetopsis
export ZETOPSIS_DATABASE_URL=${ZETOPSIS_DATABASE_URL:-postgres://zetopsis@localhost/zetopsis?host=/run/zetopsis-postgres}
export ZETOPSIS_DATA_DIR=${ZETOPSIS_DATA_DIR:-/var/lib/zetopsis}
# not by a function: what is begun in the background must be the server itself, so that it is what a signal reaches
setpriv --reuid=zetopsis --regid=zetopsis --init-groups node apps/server/dist/main.js &
server=$!
trap 'kill -TERM "$server" 2>/dev/null || true' TERM INT
status=0
# a signal ends the waiting; the server is still shutting down then, and needs PostgreSQL
while kill -0 "$server" 2>/dev/null; do
  wait "$server" && status=0 || status=$?
done
exit "$status"
