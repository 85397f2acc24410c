"""The queue's tasks: call core and browser, report progress, write to the store."""
