#!/usr/bin/env bash
# Rain Sieve: one entry for everything. ./sieve help lists the commands.
set -euo pipefail
here=$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)
home=${SIEVE_HOME:-$here/run}
port=${SIEVE_PORT:-8437}
jar=$here/web/target/rain-sieve.jar
app=$here/web/target/app/rain-sieve.jar

# Names of files are UTF-8, whatever the terminal says.
[ "$(locale charmap 2>/dev/null)" = UTF-8 ] || export LC_ALL=C.UTF-8

say() { printf '%s\n' "$*" >&2; }

newest_java() {
  local best="" best_version=0 version dir
  for dir in /usr/lib/jvm/*; do
    [ -x "$dir/bin/javac" ] || continue
    version=$("$dir/bin/java" -version 2>&1 | sed -n 's/.*version "\([0-9]*\).*/\1/p' | head -1)
    [ "${version:-0}" -gt "$best_version" ] && best=$dir best_version=$version
  done
  [ "$best_version" -ge 17 ] && printf '%s' "$best"
}

# Installs Debian packages for commands or files that are missing: pairs of command (or absolute path) and package.
need() {
  local missing=()
  while [ $# -gt 0 ]; do
    case $1 in
      /*) compgen -G "$1" >/dev/null || missing+=("$2") ;;
      *) command -v "$1" >/dev/null 2>&1 || [ -x "/usr/sbin/$1" ] || missing+=("$2") ;;
    esac
    shift 2
  done
  [ ${#missing[@]} -eq 0 ] && return
  if [ "$(id -u)" != 0 ]; then
    say "These packages are missing: ${missing[*]}. Install them, for instance with: sudo apt-get install ${missing[*]}"
    exit 1
  fi
  say "Installing ${missing[*]} …"
  apt-get update -qq >/dev/null
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

set_up_java() {
  JAVA_HOME=$(newest_java) || true
  if [ -z "${JAVA_HOME:-}" ]; then
    need javac openjdk-17-jdk-headless
    JAVA_HOME=$(newest_java)
  fi
  export JAVA_HOME
  java=$JAVA_HOME/bin/java
  export MAVEN_OPTS="-XX:TieredStopAtLevel=1"
  if [ "$("$java" -version 2>&1 | sed -n 's/.*version "\([0-9]*\).*/\1/p' | head -1)" -ge 24 ]; then
    MAVEN_OPTS="$MAVEN_OPTS --sun-misc-unsafe-memory-access=allow --enable-native-access=ALL-UNNAMED"
  fi
}

# The application with its libraries beside it and its classes in an archive: it starts in half the time.
unpack() {
  share=$here/web/target/app/$(basename "$JAVA_HOME").jsa
  if [ "$app" -ot "$jar" ] || [ ! -f "$share" ]; then
    (
      flock 9
      if [ "$app" -ot "$jar" ] || [ ! -f "$share" ]; then
        rm -rf "$here/web/target/app"
        "$java" -Djarmode=tools -jar "$jar" extract --destination "$here/web/target/app" >/dev/null
        # Everything but the database, which is not there yet.
        SIEVE_CACHE=$here/web/target/app "$java" -XX:+UseSerialGC -XX:ArchiveClassesAtExit="$share" -Dspring.context.exit=onRefresh \
          -Dspring.flyway.enabled=false -Dserver.port=0 -Djava.awt.headless=true -jar "$app" serve >/dev/null 2>&1 || true
        [ -f "$share" ] || : >"$share"
      fi
    ) 9>"$here/web/target/app.lock"
  fi
  if [ -s "$share" ]; then share=-XX:SharedArchiveFile=$share; else share=-Xshare:auto; fi
}

build() {
  if [ -n "${SIEVE_NO_BUILD:-}" ]; then
    unpack
    return
  fi
  need mvn maven node nodejs npm npm /usr/share/lensfun/version_1 liblensfun-data-v1
  if [ ! -f "$jar" ] || [ -n "$(find "$here/pom.xml" "$here"/core/{pom.xml,src/main} "$here"/simulation/{pom.xml,src/main} "$here"/web/{pom.xml,src/main} "$here"/catalogue/{pom.xml,src/main} -newer "$jar" -not -path '*/node_modules/*' -type f -print -quit)" ]; then
    say "Building …"
    (cd "$here" && mvn -q -B -pl core,simulation,web,catalogue package -DskipTests)
  fi
  unpack
}

# Process number of our database server, if it is at work; a number that another process has by now is nobody's.
db_pid() {
  local pid
  pid=$(cat "$home/db/run/pid" 2>/dev/null) || return 1
  [ -n "$pid" ] && tr '\0' '\n' <"/proc/$pid/cmdline" 2>/dev/null | grep -qxF -- "--datadir=$home/db/data" && printf '%s' "$pid"
}

# The private MariaDB: own data folder, loopback only, random passwords kept in a file that only its owner reads.
db_start() {
  need mariadbd mariadb-server-core mariadb mariadb-client-core mariadb-install-db mariadb-server-core
  local db=$home/db user=()
  mkdir -p "$home"
  if db_pid >/dev/null; then
    db_env
    return
  fi
  rm -f "$db/run/pid"
  db_started=yes
  # The server does not run as root, unless its folder lies where nobody else can reach it.
  if [ "$(id -u)" = 0 ]; then
    if runuser -u nobody -- test -x "$home"; then user=(--user=nobody); else user=(--user=root); fi
  fi
  if [ ! -f "$db/env" ]; then
    say "Preparing the database …"
    rm -rf "$db"
    mkdir -p "$db"/{data,tmp,run}
    [ "${user[*]}" = --user=nobody ] && chown -R nobody "$db"
    mariadb-install-db --no-defaults "${user[@]}" --datadir="$db/data" --tmpdir="$db/tmp" --auth-root-authentication-method=normal --skip-test-db --skip-name-resolve >/dev/null 2>&1
  fi
  local dbport
  dbport=$(db_port)
  PATH=$PATH:/usr/sbin mariadbd --no-defaults "${user[@]}" --datadir="$db/data" --tmpdir="$db/tmp" --socket="$db/run/s.sock" --pid-file="$db/run/pid" \
    --bind-address=127.0.0.1 --port="$dbport" --skip-name-resolve --log-error="$db/data/error.log" --character-set-server=utf8mb4 \
    --innodb-buffer-pool-size=64M >/dev/null 2>&1 8>&- &
  local i
  for i in $(seq 100); do
    [ -S "$db/run/s.sock" ] && mariadb --no-defaults -S "$db/run/s.sock" -u root ${rootpw:+-p"$rootpw"} -e 'SELECT 1' >/dev/null 2>&1 && break
    # With a root password set, an answer of "access denied" also means that it is up.
    [ -f "$db/env" ] && [ -S "$db/run/s.sock" ] && [ -f "$db/run/pid" ] && break
    sleep 0.1
  done
  if [ ! -f "$db/env" ]; then
    local root app
    root=$(head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n')
    app=$(head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n')
    mariadb --no-defaults -S "$db/run/s.sock" -u root <<SQL
CREATE DATABASE sieve CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE USER sieve@'127.0.0.1' IDENTIFIED BY '$app';
GRANT ALL ON sieve.* TO sieve@'127.0.0.1';
ALTER USER root@localhost IDENTIFIED BY '$root';
SQL
    (umask 077; printf 'SIEVE_DB_PASSWORD=%s\nSIEVE_DB_ROOT_PASSWORD=%s\n' "$app" "$root" >"$db/env.new" && mv "$db/env.new" "$db/env")
  fi
  db_env
}

# A port that stays the same for this data folder: the wished one, or the next that is free.
db_port() {
  if [ ! -f "$home/db.port" ]; then
    local p=${SIEVE_DB_PORT:-33917}
    while (exec 3<>"/dev/tcp/127.0.0.1/$p") 2>/dev/null; do p=$((p + 1)); done
    printf '%s' "$p" >"$home/db.port"
  fi
  cat "$home/db.port"
}

db_env() {
  # shellcheck disable=SC1091
  . "$home/db/env"
  export SIEVE_DB_USER=sieve SIEVE_DB_PASSWORD
  SIEVE_DB_URL="jdbc:mariadb://127.0.0.1:$(db_port)/sieve"
  export SIEVE_DB_URL
}

# For commands that need the database for a moment: stops it if it was not at work before.
db_leave() { [ -z "${db_started:-}" ] || db_stop; }

db_stop() {
  local pid
  pid=$(db_pid) || return 0
  kill "$pid" 2>/dev/null || true
  while kill -0 "$pid" 2>/dev/null; do sleep 0.1; done
}

# Everything in one consistent read, checked before it takes its name.
backup() {
  need mariadb-dump mariadb-client
  [ ! -e "$1" ] || { say "$1 exists already; choose another name."; exit 1; }
  db_start
  local part=$1.part
  (umask 077; MYSQL_PWD=$SIEVE_DB_PASSWORD mariadb-dump --no-defaults -h 127.0.0.1 -P "$(db_port)" -u sieve --single-transaction --quick --hex-blob sieve | gzip >"$part") \
    || { rm -f "$part"; say "The backup could not be written. Nothing was changed."; exit 1; }
  if ! gzip -t "$part" || ! gzip -dc "$part" | tail -1 | grep -q 'Dump completed'; then
    rm -f "$part"
    say "The backup is not complete and was removed."
    exit 1
  fi
  mv -n "$part" "$1"
}

# SQL as it was dumped, and nothing else: in binary mode the client carries out no commands of its own, such as \! for the shell.
dumped() { mariadb --no-defaults --binary-mode "$@"; }

# Reads a backup into a database of its own and looks at it: what is not ours, not whole or of a later version is refused.
check_backup() {
  local root=(mariadb --no-defaults -S "$home/db/run/s.sock" -u root) check=sieve_check said newest known
  (
    . "$home/db/env"
    export MYSQL_PWD=$SIEVE_DB_ROOT_PASSWORD
    "${root[@]}" -e "DROP DATABASE IF EXISTS $check; CREATE DATABASE $check CHARACTER SET utf8mb4 COLLATE utf8mb4_bin; GRANT ALL ON $check.* TO sieve@'127.0.0.1'"
  ) || return 1
  said=$(
    gzip -dc "$1" | dumped -h 127.0.0.1 -P "$(db_port)" -u sieve $check 2>/dev/null \
      && mariadb --no-defaults -N -h 127.0.0.1 -P "$(db_port)" -u sieve $check 2>/dev/null -e "
        SELECT MAX(CAST(version AS UNSIGNED)) FROM flyway_schema_history HAVING MIN(success) = 1
          AND (SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = '$check'
               AND table_name IN ('shoot', 'frame', 'run', 'item', 'page_version')) = 5"
  ) || said=
  (
    . "$home/db/env"
    MYSQL_PWD=$SIEVE_DB_ROOT_PASSWORD "${root[@]}" -e "DROP DATABASE $check; REVOKE ALL ON $check.* FROM sieve@'127.0.0.1'"
  )
  newest=$(printf '%s' "$said" | tail -1)
  known=$(cd "$here/web/src/main/resources/db/migration" && printf '%s\n' V*__*.sql | sed 's/^V\([0-9]*\)__.*/\1/' | sort -n | tail -1)
  if ! [ "${newest:-0}" -gt 0 ] 2>/dev/null; then
    say "$1 holds no whole database of Rain Sieve. Nothing was changed."
    return 1
  fi
  if [ "$newest" -gt "$known" ]; then
    say "$1 was made by a later version of Rain Sieve. Install that one, or a later one. Nothing was changed."
    return 1
  fi
}

# Puts a backup in the place of what the database holds; what was there is kept beside it as a backup of its own.
restore() {
  need mariadb mariadb-client-core
  [ -f "$1" ] || { say "There is no file $1."; exit 1; }
  if ! gzip -t "$1" 2>/dev/null || ! gzip -dc "$1" | tail -1 | grep -q 'Dump completed'; then
    say "$1 is no complete backup. Nothing was changed."
    exit 1
  fi
  db_start
  local sql=(-h 127.0.0.1 -P "$(db_port)" -u sieve) kept
  export MYSQL_PWD=$SIEVE_DB_PASSWORD
  # Whatever its port, a running application or worker holds connections.
  if [ "$(mariadb --no-defaults -N "${sql[@]}" -e 'SELECT COUNT(*) FROM information_schema.processlist WHERE id <> CONNECTION_ID()')" != 0 ]; then
    say "Rain Sieve is running. End it and its workers first. Nothing was changed."
    exit 1
  fi
  check_backup "$1" || { db_leave; exit 1; }
  kept=$home/before-restore-$(date +%Y%m%d-%H%M%S).sql.gz
  backup "$kept"
  local empty='DROP DATABASE sieve; CREATE DATABASE sieve CHARACTER SET utf8mb4 COLLATE utf8mb4_bin'
  mariadb --no-defaults "${sql[@]}" -e "$empty"
  if ! gzip -dc "$1" | dumped "${sql[@]}" sieve; then
    mariadb --no-defaults "${sql[@]}" -e "$empty"
    gzip -dc "$kept" | dumped "${sql[@]}" sieve
    say "$1 could not be read in. Everything is as it was."
    exit 1
  fi
  db_leave
  say "Restored from $1. What was there before is in $kept. Older backups are brought up to date at the next start."
}

# What was set on the page Set-up. The environment goes before it, and the page is told which of them it says.
set_up_file() {
  local key value given=
  for key in SIEVE_ROOTS SIEVE_RETURNS SIEVE_INBOX SIEVE_QUIET SIEVE_CORES SIEVE_MEMORY_MB SIEVE_KEEP_FREE_MB SIEVE_THUMBNAIL_MB; do
    [ -z "${!key:-}" ] || given="$given $key"
  done
  export SIEVE_GIVEN=$given
  [ -r "$home/set-up.conf" ] || return 0
  while IFS='=' read -r key value || [ -n "$key" ]; do
    case $key in
      SIEVE_ROOTS | SIEVE_RETURNS | SIEVE_INBOX | SIEVE_QUIET | SIEVE_CORES | SIEVE_MEMORY_MB | SIEVE_KEEP_FREE_MB | SIEVE_THUMBNAIL_MB)
        [ -n "${!key:-}" ] || export "$key=$value"
        ;;
    esac
  done <"$home/set-up.conf"
}

environment() {
  set_up_file
  export SIEVE_HOME=$home SIEVE_CACHE=${SIEVE_CACHE:-$home/cache} SIEVE_UPLOADS=${SIEVE_UPLOADS:-$home/uploads} SIEVE_CARDS=${SIEVE_CARDS:-/media/${USER:-root},/run/media/${USER:-root},/media} SIEVE_PORT=$port
  export SIEVE_LENSES=${SIEVE_LENSES:-$home/lenses,/usr/share/lensfun/version_1}
  export SIEVE_ROOTS=${SIEVE_ROOTS:-${SIEVE_PHOTOS:-$HOME}}
  mkdir -p "$SIEVE_CACHE"
}

# Ends the processes that were started, patiently for five seconds.
end_children() {
  local i
  [ ${#children[@]} -gt 0 ] || return 0
  kill "${children[@]}" 2>/dev/null || true
  for i in $(seq 50); do
    kill -0 "${children[@]}" 2>/dev/null || return 0
    sleep 0.1
  done
  kill -KILL "${children[@]}" 2>/dev/null || true
}

worker_command() {
  # SIEVE_CORES and SIEVE_MEMORY_MB: what a worker may use. What one thread's native code gave back others use again, and no thread
  # keeps a buffer as large as its largest write.
  echo env MALLOC_ARENA_MAX=2 "$java" -Xmx${SIEVE_MEMORY_MB:-1400}m ${SIEVE_CORES:+-XX:ActiveProcessorCount=$SIEVE_CORES} -XX:+UseParallelGC -Djdk.nio.maxCachedBufferSize=262144 -Djava.awt.headless=true --enable-native-access=ALL-UNNAMED "$share" ${SIEVE_WORKER_OPTIONS:-} -jar "$app" worker
}

serve() {
  set_up_java
  build
  mkdir -p "$home"
  # One application a home: a second one would share its files, and end its database.
  exec 8>>"$home/serve.lock"
  if ! flock -n 8; then
    say "Rain Sieve is at work on $home already. End it first, or give this one a folder of its own with SIEVE_HOME."
    exit 1
  fi
  db_start
  environment
  children=()
  trap 'status=$?; trap - EXIT INT TERM; end_children; [ -n "${SIEVE_KEEP_DB:-}" ] || db_leave; exit $status' EXIT
  trap 'exit 0' INT TERM
  "$java" -Xmx700m -XX:+UseSerialGC -Djava.awt.headless=true "$share" ${SIEVE_WEB_OPTIONS:-} -jar "$app" serve >>"$home/web.log" 2>&1 8>&- &
  children+=($!)
  if [ "${SIEVE_WORKERS:-1}" != 0 ]; then
    # A worker that dies is started again; what it held is taken over.
    (
      child=0
      trap 'kill $child 2>/dev/null; exit 0' TERM INT
      while true; do
        # shellcheck disable=SC2046
        nice -n "${SIEVE_NICE:-10}" $(worker_command) >>"$home/worker.log" 2>&1 &
        child=$!
        status=0
        wait $child || status=$?
        printf '%s The worker ended with status %s and is started again.\n' "$(date '+%F %T')" "$status" >>"$home/worker.log"
        sleep 1
      done
    ) 8>&- &
    children+=($!)
  fi
  if [ -n "${SIEVE_DEMO:-}" ]; then
    # The photographer's catalogue, a stand-in that shares no code with the application.
    nice -n 5 "$java" -Xmx128m -XX:+UseSerialGC -cp "$here/catalogue/target/classes:$here/catalogue/target/lib/*" \
      org.rainsieve.catalogue.Catalogue "$SIEVE_INBOX" "$home/catalogue" "${SIEVE_CATALOGUE##*:}" >>"$home/catalogue.log" 2>&1 8>&- &
    children+=($!)
    nice -n 15 "$java" -Xmx3g -XX:+UseParallelGC -Djava.awt.headless=true -jar "$app" draw "$SIEVE_DEMO" ${SIEVE_DEMO_BURSTS:-} ${SIEVE_DEMO_FRAMES:-} >>"$home/draw.log" 2>&1 8>&- &
    children+=($!)
  fi
  # Where this one is ended without a word, nothing that it started goes on unsupervised.
  (
    trap '' INT
    while kill -0 $$ 2>/dev/null; do sleep 2; done
    kill "${children[@]}" 2>/dev/null
    printf '%s ./sieve was ended from outside; so was all that it had started.\n' "$(date '+%F %T')" >>"$home/web.log"
    [ -n "${SIEVE_KEEP_DB:-}" ] || db_leave
  ) 8>&- >/dev/null 2>&1 &
  children+=($!)
  local i at=${SIEVE_ADDRESS:-127.0.0.1}
  [ "$at" = 0.0.0.0 ] && at=127.0.0.1
  for i in $(seq 600); do
    if (exec 3<>"/dev/tcp/$at/$port") 2>/dev/null; then break; fi
    kill -0 "${children[0]}" 2>/dev/null || { say "The application did not start: $(grep -v '^\s*at \|^$' "$home/web.log" | tail -1) (more in $home/web.log)"; exit 1; }
    sleep 0.1
  done
  echo "Rain Sieve is at http://$at:$port/"
  wait "${children[0]}"
}

run_tests() {
  set_up_java
  need mvn maven node nodejs npm npm mariadbd mariadb-server-core mariadb mariadb-client-core \
    dcraw_emu libraw-bin exiftool libimage-exiftool-perl tiffinfo libtiff-tools chromium chromium \
    /usr/share/lensfun/version_1 liblensfun-data-v1 '/usr/lib/*/liblensfun.so.1' liblensfun1 \
    /usr/share/color/icc/colord colord-data /usr/share/color/icc/LStar-RGB.icc icc-profiles-free
  export PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1
  cd "$here"
  mvn -B -ntp -q verify "$@"
  # One closing line for people and machines.
  local total=0 failed=0 skipped=0 f t e s
  for f in */target/surefire-reports/*.xml */target/failsafe-reports/TEST-*.xml; do
    [ -f "$f" ] || continue
    t=$(sed -n 's/.*<testsuite [^>]*tests="\([0-9]*\)".*/\1/p' "$f" | head -1)
    e=$(sed -n 's/.*<testsuite [^>]*errors="\([0-9]*\)".*/\1/p' "$f" | head -1)
    s=$(sed -n 's/.*<testsuite [^>]*skipped="\([0-9]*\)".*/\1/p' "$f" | head -1)
    total=$((total + ${t:-0})); failed=$((failed + ${e:-0})); skipped=$((skipped + ${s:-0}))
  done
  echo "$((total - failed - skipped)) passed, $failed failed, $skipped skipped"
}

case "${1:-help}" in
  demo)
    export SIEVE_ROOTS=${SIEVE_ROOTS:-$home/demo}
    mkdir -p "$home/demo"
    export SPRING_PROFILES_ACTIVE=demo SIEVE_DEMO=$home/demo SIEVE_CARDS=$home/demo/Card SIEVE_LENSES=$home/demo/Lenses,/usr/share/lensfun/version_1
    export SIEVE_INBOX=${SIEVE_INBOX:-$home/inbox} SIEVE_RETURNS=${SIEVE_RETURNS:-$home/returns} SIEVE_CATALOGUE=${SIEVE_CATALOGUE:-http://127.0.0.1:$((port + 1))}
    need dcraw_emu libraw-bin
    mkdir -p "$SIEVE_INBOX" "$SIEVE_RETURNS"
    serve
    ;;
  serve) serve ;;
  worker)
    set_up_java
    build
    # On another machine the database is that of the first one, as SIEVE_DB_URL says.
    if [ -z "${SIEVE_DB_URL:-}" ]; then db_start; else mkdir -p "$home"; fi
    environment
    # shellcheck disable=SC2046
    exec nice -n 10 $(worker_command)
    ;;
  process)
    shift
    set_up_java
    build
    SIEVE_HOME=$home SIEVE_LENSES=${SIEVE_LENSES:-$home/lenses,/usr/share/lensfun/version_1} exec "$java" -Xmx1400m -XX:+UseParallelGC -Xlog:disable -Xlog:all=off $([ ! -t 2 ] || echo -Dsieve.terminal=true) -Djava.awt.headless=true --enable-native-access=ALL-UNNAMED "$share" -jar "$app" process "$@"
    ;;
  open)
    shift
    set_up_java
    build
    SIEVE_HOME=$home SIEVE_PORT=$port exec "$java" -XX:TieredStopAtLevel=1 -XX:+UseSerialGC "$share" -jar "$app" open "$@"
    ;;
  test)
    shift
    run_tests "$@"
    ;;
  benchmark)
    shift
    set_up_java
    if [ "${1:-}" = chaos ] || [ "${1:-}" = queue ] || [ "${1:-}" = memory ] || [ "${1:-}" = look ]; then
      need mvn maven node nodejs npm npm mariadbd mariadb-server-core mariadb mariadb-client-core
      cd "$here"
      memory=0
      case $1 in chaos) need /usr/lib/*/faketime/libfaketime.so.1 libfaketime && set -- ChaosIT,StormBenchmark "${2:-200}" ;; memory) memory=${2:-60} && set -- MemoryIT 0 ;; queue) set -- QueueBenchmark 0 ;; *) set -- LookBenchmark 0 ;; esac
      exec mvn -B -ntp -q -pl core,simulation,catalogue,web verify -Dtest=NoSuch -Dsurefire.failIfNoSpecifiedTests=false -Dit.test="$1" \
        -Dfailsafe.failIfNoSpecifiedTests=false -Dsieve.chaos.frames="$2" -Dsieve.memory.frames="$memory"
    fi
    need mvn maven dcraw_emu libraw-bin exiftool libimage-exiftool-perl
    from=$PWD
    cd "$here"
    mvn -q -B -pl core,simulation,benchmarks compile dependency:build-classpath -Dmdep.outputFile="$here/benchmarks/target/classpath"
    cd "$from"
    exec "$java" -Xmx1400m -XX:+UseParallelGC -Djava.awt.headless=true --enable-native-access=ALL-UNNAMED \
      -Dsieve.decoder="$here/web/target/classes/decoder" -cp "$here/benchmarks/target/classes:$here/core/target/classes:$here/simulation/target/classes:$(cat "$here/benchmarks/target/classpath")" org.rainsieve.benchmarks.Benchmarks "$@"
    ;;
  password)
    shift
    set_up_java
    build
    db_start
    environment
    status=0
    "$java" -Xmx300m -XX:TieredStopAtLevel=1 -XX:+UseSerialGC "$share" -jar "$app" password "$@" || status=$?
    db_leave
    exit $status
    ;;
  backup)
    [ $# = 2 ] || { say "Usage: ./sieve backup FILE.sql.gz"; exit 2; }
    backup "$2"
    db_leave
    say "Everything the database holds, camera books too, is in $2. Photographs and returns are not in it."
    ;;
  restore)
    [ $# = 2 ] || { say "Usage: ./sieve restore FILE.sql.gz"; exit 2; }
    restore "$2"
    ;;
  db-start)
    db_start
    ;;
  unpack)
    set_up_java
    unpack
    ;;
  db-stop) db_stop ;;
  *)
    cat <<'TEXT'
./sieve demo                 installs what is missing, builds, fills in the demo, serves it and prints the address
./sieve serve                the same without demo data; SIEVE_ROOTS=FOLDER[,FOLDER] says where frames may lie
./sieve worker               one more worker on this machine
./sieve process FOLDER …     the same work on the command line; ./sieve process --help
./sieve open FILE …          hands files over to the running application and prints their page
./sieve test                 every test, headless
./sieve password             sets the password that is asked for; needed before SIEVE_ADDRESS is an address of a network
./sieve backup FILE          writes the whole database, camera books too, into one compressed file
./sieve restore FILE         takes a backup in its place; what was there is kept as a backup
./sieve benchmark speed      speed of each step, beside general-purpose libraries
./sieve benchmark steps      what Sharpen, Optics, Crop and Enlarge cost beside Learned
./sieve benchmark strip      what a test strip costs beside its tiles
./sieve benchmark viewer     what a look at a 24 MP frame and a moved amount take
./sieve benchmark chaos      200 frames while workers are ended and stopped and the database is restarted: nothing lost, nothing twice
./sieve benchmark memory     60 JPEGs of 10 MP and 60 frames of 24 MP in three forms while somebody looks: what a worker holds
./sieve benchmark look       the same as it is seen in a browser, also while a run is on
./sieve benchmark queue      one worker against two, forecasts, 5,000 frames in one run
./sieve benchmark large      61 MP, four times as large, with all steps: heap and time
./sieve benchmark enlarge FOLDER [own]   pictures reduced and enlarged again; own: at their own size, not reduced by two first
./sieve benchmark sharpen FOLDER [own]   pictures blurred and sharpened again, told the blur rightly and wrongly
./sieve benchmark blur FOLDER [own]      how often the blur of a frame is read as it is
./sieve benchmark columns FILE.png   four scenes that methods stumble over, in five columns at 200 %
./sieve benchmark quality FOLDER [own]   picture quality of each method on the pictures of a folder; own: without other libraries
./sieve benchmark metadata FOLDER  what is told of each file of a folder at a glance, field by field beside ExifTool
./sieve benchmark fuzz [FOLDER]    damaged files of every kind, and the broken ones of a folder, are refused and harm nothing
TEXT
    [ "${1:-help}" = help ] || [ "${1:-}" = --help ] || exit 2
    ;;
esac
