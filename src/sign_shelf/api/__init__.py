"""The HTTP interface: routers, their models, sign-in, problem details. Decides nothing of the job."""
