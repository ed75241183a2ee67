"""Things of many parts that stay one, each kind in a file: what they are made of, and how they follow what they hang
on."""
