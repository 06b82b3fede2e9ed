"""Foreign files on their way in: uploads as durable tasks, read in processes with limits."""
