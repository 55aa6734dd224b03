"""Long work: the queue, its workers, and the tasks that they run in processes with limits."""
