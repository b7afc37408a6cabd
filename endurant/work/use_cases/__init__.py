"""What people do, one transaction each."""

# Whoever changes facts has the read models follow: importing them registers them.
from endurant.work import read_models as read_models
