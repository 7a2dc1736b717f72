#!/usr/bin/env python3
"""Prints the tags of sound files as JSON, a line a file, as mutagen reads them."""
import json
import sys

import mutagen
from mutagen.id3 import ID3

ID3_NAMES = {"TIT2": "title", "TALB": "album", "TRCK": "track", "TBPM": "bpm", "TKEY": "key", "TCOP": "copyright"}
COMMENT_NAMES = {"title": "title", "album": "album", "tracknumber": "track", "bpm": "bpm", "initialkey": "key",
                 "copyright": "copyright", "comment": "comment", "lyrics": "words"}


def of_id3(tags: ID3) -> dict:
    found = {name: str(tags[frame]) for frame, name in ID3_NAMES.items() if frame in tags}
    for frame in tags.getall("COMM"):
        found["comment"] = str(frame)
    for frame in tags.getall("USLT"):
        found["words"] = str(frame)
    order = [name for toc in tags.getall("CTOC") for name in toc.child_element_ids]
    chapters = {c.element_id: [c.start_time / 1000, str(c.sub_frames["TIT2"])] for c in tags.getall("CHAP")}
    found["chapters"] = [chapters[name] for name in order]
    return found


def seconds(text: str) -> float:
    hours, minutes, rest = text.split(":")
    return int(hours) * 3600 + int(minutes) * 60 + float(rest)


def of_comments(tags: dict) -> dict:
    found = {name: tags[key][0] for key, name in COMMENT_NAMES.items() if key in tags}
    numbers = [f"chapter{i:03}" for i in range(1, 1000) if f"chapter{i:03}" in tags]
    found["chapters"] = [[seconds(tags[n][0]), tags[n + "name"][0]] for n in numbers]
    return found


for path in sys.argv[1:]:
    tags = mutagen.File(path).tags
    print(json.dumps(of_id3(tags) if isinstance(tags, ID3) else of_comments(tags)))
