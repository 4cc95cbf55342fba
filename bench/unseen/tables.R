# Writes the tables that installed packages of R bring along as CSV, at most 500 rows of each: data that nobody here made.
#   apt-get install r-base-core r-cran-…;  Rscript bench/unseen/tables.R FOLDER
folder <- commandArgs(trailingOnly = TRUE)[1]
dir.create(folder, showWarnings = FALSE, recursive = TRUE)
set.seed(1)
for (package in rownames(installed.packages())) {
  items <- tryCatch(data(package = package)$results[, "Item"], error = function(e) character(0))
  for (item in items) tryCatch({
    name <- sub(" .*", "", item)
    from <- if (grepl("\\(", item)) sub(".*\\((.*)\\)", "\\1", item) else name
    place <- new.env()
    suppressWarnings(data(list = from, package = package, envir = place))
    table <- if (exists(name, envir = place)) get(name, envir = place) else get(name, envir = asNamespace(package))
    if (!is.data.frame(table) || nrow(table) < 20) next
    table <- as.data.frame(table)
    table <- table[, !sapply(table, is.list), drop = FALSE]
    if (nrow(table) > 500) table <- table[sort(sample(nrow(table), 500)), , drop = FALSE]
    if (is.character(attr(table, "row.names"))) table <- cbind(row = rownames(table), table)
    write.csv(table, file.path(folder, paste0(package, ".", name, ".csv")), row.names = FALSE, na = "")
  }, error = function(e) NULL)
}
