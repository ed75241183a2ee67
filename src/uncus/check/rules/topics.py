"""What others ask of the job, as long as nobody settled it."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.job.records import Topic
from uncus.steel.joint import Severity


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    for topic in looked.all(Topic):
        if topic.finding or topic.settled:
            continue
        said = f": {topic.text.strip()}" if topic.text.strip() else ""
        text = f"{topic.title.strip()}{said}".rstrip(".") + (f" ({topic.by})." if topic.by else ".")
        near = (looked.middle(id.partition("/")[0]) for id in topic.about)
        at = topic.at or next((at for at in near if at is not None), None)
        form = form_of(topic.text, [(r.by, r.text) for r in topic.remarks])
        yield Found("topic", (topic.id, *topic.about), text, Severity.LOOK, at, form)


KIND = Rule("topic", "Asked by others", "Topics that others sent (BCF) and that nobody has settled.", whole=whole)
