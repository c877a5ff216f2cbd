"""From a brief to published files: the graph of tasks, who carries it out, what is kept."""
