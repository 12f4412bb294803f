#!/usr/bin/env bash
# Makes test/vectors/locked with the encrypting engine's own shell (Debian's package "sqlcipher"): databases locked page by
# page under several parameters, one with its log and one with its journal beside it. Each holds 24 messages, of which
# those with a number divisible by 7 were deleted; in the log and the journal their bytes still stand.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/../test/vectors/locked"
rm -f ./*
story() {
	echo "create table person(id integer primary key, phone text, label text);"
	echo "create table note(id integer primary key autoincrement, person int, sent_ms int, mine int, body text);"
	echo "insert into person values(1,'+447700900111','Ada'),(2,'+447700900122','Bo');"
	for i in $(seq 1 24); do
		echo "insert into note(person,sent_ms,mine,body) values($((1 + i % 2)),$((1735700000000 + i * 977000)),$((i % 3 == 0)),'The gauge reads $((i * 11)) today, note $i');"
	done
}
make() { # name, pragmas before, statements after, the key where it is no passphrase
	{ echo "pragma key=${4:-'tin roof 9'};"; echo "$2"; story; echo "$3"; } | sqlcipher "making-$1.db" > /dev/null
}
lose='delete from note where id % 7 = 0;'
make log 'pragma journal_mode=wal; pragma wal_autocheckpoint=0;' "$lose
.shell cp making-log.db log.db; cp making-log.db-wal log.db-wal"
make journal 'pragma journal_mode=persist;' "$lose"
cp making-journal.db journal.db
cp making-journal.db-journal journal.db-journal
make pages-2048 'pragma cipher_page_size=2048;' ''
make rounds-4000 'pragma cipher_compatibility=2;' ''
make rounds-10000 'pragma kdf_iter=10000;' ''
make no-mac 'pragma cipher_use_hmac=off;' ''
make raw-key '' '' "\"x'$(printf '%02x' $(seq 1 7 224))'\""
for n in raw-key pages-2048 rounds-4000 rounds-10000 no-mac; do cp "making-$n.db" "$n.db"; done
rm -f making-*
