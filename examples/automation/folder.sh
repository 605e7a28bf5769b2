#!/bin/sh
# Takes all files of a folder into a batch of a running Yugen, one after the other, and prints what became of each.
# folder.sh FOLDER STUDY NAME [ADDRESS]
set -eu
folder=$1 study=$2 name=$3 at=${4:-http://127.0.0.1:8787}/api
id=$(curl -sf -H 'Content-Type: application/json' -d "{\"study\":\"$study\",\"name\":\"$name\"}" "$at/batches" | sed 's/.*"id":"\([^"]*\)".*/\1/')
for file in "$folder"/*; do
  [ -f "$file" ] || continue
  base=$(basename "$file")
  status=$(curl -s -G --data-urlencode "name=$base" -o /dev/null -w '%{url_effective}' "$at/" | sed 's/.*?//')
  said=$(curl -sf --data-binary "@$file" "$at/batches/$id/files?$status" | sed 's/.*"status":"\([^"]*\)".*/\1/')
  echo "$base: $said"
done
echo "batch $id"
