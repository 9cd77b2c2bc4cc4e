"""Files of sound: decoding in a process of its own, and the cache of what can be made again."""
