#!/usr/bin/env bash
# Makes the inputs that the fuzzers begin with, from the examples and the old recordings.
# Usage: tests/fuzz/seeds.sh FOLDER
set -eu
cd "$(dirname "$0")/../.."
to=$1
mkdir -p "$to"/{rig,image,recording,edits,kept,answers}
for file in examples/*.rig examples/poor/*.rig; do
    name=$(basename "$(dirname "$file")")-$(basename "$file")
    cp "$file" "$to/rig/$name"
    { cat "$file" && printf '\0level | despike 5 | table | smooth 200 ms'; } >"$to/edits/$name"
done
for i in 0 1 2 3 4 5 6; do
    printf "\\x0$i\\x20\\x00\\x00\\x01\\x80\\x01\\x00\\x07" >"$to/image/example-$i"
done
for file in tests/corpus/recordings/*.csv tests/corpus/second/*.csv; do
    stem=${file%.csv}
    { cat "$stem.json" && printf '\0' && cat "$stem.csv" && printf '\0' && cat "$stem.events.jsonl"; } >"$to/recording/$(basename "$(dirname "$stem")")-$(basename "$stem")"
done
head -c 96 /dev/zero | tr '\0' '\1' >"$to/kept/ones"
head -c 88 /dev/zero >"$to/kept/zeros"
printf '\0%s\n' '3 cm' '9 cm' 'list' 'back 1' 'anyway' 'place 6 cm' '6 cm' 'done' 'yes' >"$to/answers/depth"
printf '\1low\nplace 9 cm\nhigh\ndone\nyes\n' >"$to/answers/tide"
printf '\2''2 s\n1.5\n5 s\n4\ndone\n' >"$to/answers/pump"
printf '\3''312, 0 cm\n1650, 6 cm\n3020, 12 cm\n' >"$to/answers/points"
printf '\4kp 8, ki 0.1\nsettle\nstep 1 cm\npush 5 %%\ndisturb\nwait 20 s\nback 1\nsave\n' >"$to/answers/script"
