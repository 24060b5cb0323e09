"""HTTP: typed endpoints, one router for each stage, problem details, and the built front end."""
