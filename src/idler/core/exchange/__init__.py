"""A machine in the forms that other programs read and write: JSON, CSV, and the device files of CiA 306. Text only."""
