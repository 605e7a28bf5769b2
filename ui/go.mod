// Keeps Go's tools out of this folder: packages in node_modules may hold Go files.
module yugen/ui

go 1.26
