DROP TABLE revision_names;
