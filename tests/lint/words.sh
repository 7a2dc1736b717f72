#!/usr/bin/env bash
# Phrases that no sentence for people may hold: turns that a musician would stumble over, and words that have
# another name here. Looks at what is within quotation marks in src; prints what it finds.
set -uo pipefail
cd "$(dirname "$0")/../.."
phrases=('serves? first' 'of its own' 'by itself' 'that meet' 'puts? (it )?out\b' 'would do\b' 'is told' 'it is so\b'
  'quarters a minute' 'Bring to level' '\bmend(s|ed|ing)?\b' '\bremed(y|ies)\b' 'passed over'
  'stands? here' 'by themselves' 'of their own' 'turns between' 'struck with')
found=0
for phrase in "${phrases[@]}"; do
  # Words that only name something in JSON or on an object are no sentences.
  if grep -rniE "\"[^\"]*($phrase)[^\"]*\"" src --include=*.cpp --include=*.h |
    grep -vE 'recommend|#include|setObjectName|j\["|j\.contains\("|\{"mended"|\["mended"|"mendSafe"|amend'; then
    found=1
  fi
done
exit $found
