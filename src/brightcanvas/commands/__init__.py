"""What the commands do, one module each: ``run``. A module is imported when it is called."""
