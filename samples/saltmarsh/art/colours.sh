# Variables of a prompt, or of a strip below a terminal.
STATION_PAGE='{{@raise rrggbb}}'
STATION_TEXT='{{@ink rrggbb}}'
STATION_MARK='\033[38;2;{{@accent r;g;b}}m'
STATION_PLAIN='\033[0m'
