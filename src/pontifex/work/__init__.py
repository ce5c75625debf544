"""Work in worker processes: a pool of them, each task within a budget of computing time and of memory."""

from pontifex.work.budget import Budget
from pontifex.work.pool import WorkerPool
from pontifex.work.process import prepare_workers
from pontifex.work.task import Answer, Question, Task, TaskProgress, Withdrawn, WorkFailed

__all__ = ["Answer", "Budget", "Question", "Task", "TaskProgress", "Withdrawn", "WorkFailed", "WorkerPool", "prepare_workers"]
