"""Pictures that people send: judged by their header first, decoded apart in a process with limits of its own."""
