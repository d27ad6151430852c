"""What is kept: people, projects, models and their revisions, in PostgreSQL through SQLAlchemy."""

from .database import Database
from .tables import ModelRow, Person, Project, Revision, SignIn

__all__ = ["Database", "ModelRow", "Person", "Project", "Revision", "SignIn"]
