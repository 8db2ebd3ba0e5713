"""The worker, doing all that is due, as the process beside the server does; within the test's own transaction."""

import re

from django_tasks_db.management.commands.db_worker import Worker
from django_tasks_db.models import DBTaskResult


def work() -> None:
    """Do every task that is due, and those that these bring along."""
    worker = Worker(queue_names=["*"], interval=0, batch=True, backend_name="default", startup_delay=False,
                    max_tasks=None, worker_id="tests", excluded_queue_names=[])  # fmt: skip
    while (row := DBTaskResult.objects.ready().first()) is not None:
        row.claim(worker.worker_id)
        worker.run_task(row)
        row.refresh_from_db()
        assert row.status == "SUCCESSFUL", row.traceback


def link_in(message) -> str:
    """The secret of the link in a mail."""
    found = re.search(r"/welcome#(\S+)", message.body)
    assert found, message.body
    return found[1]
