"""What is kept: people, projects, models and their revisions, in PostgreSQL through SQLAlchemy."""

from sqlalchemy.exc import OperationalError as DatabaseGone

from .database import Database
from .tables import ModelRow, Person, Project, ResetLink, Revision, SignIn, Study

__all__ = ["Database", "DatabaseGone", "ModelRow", "Person", "Project", "ResetLink", "Revision", "SignIn", "Study"]
