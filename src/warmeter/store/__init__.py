"""Where homes, readings, events, fits and jobs lie: MariaDB through SQLAlchemy, nowhere else."""
