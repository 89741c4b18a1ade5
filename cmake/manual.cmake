# SPDX-License-Identifier: Apache-2.0
# Lets TOOL write its pages into MANUAL and its completions into COMPLETION.
file(MAKE_DIRECTORY ${MANUAL}/man1 ${COMPLETION})
function(let_write file)
  execute_process(COMMAND ${TOOL} ${ARGN} OUTPUT_FILE ${file} COMMAND_ERROR_IS_FATAL ANY)
endfunction()
foreach(shell bash zsh fish)
  let_write(${COMPLETION}/tamlo.${shell} --completion ${shell})
endforeach()
let_write(${MANUAL}/man1/tamlo.1 --manual)
# The commands are those that the page of the tool lists.
file(STRINGS ${MANUAL}/man1/tamlo.1 listed REGEX "^[.]BR tamlo")
foreach(line IN LISTS listed)
  string(REGEX REPLACE "^[.]BR tamlo[^a-z]+([a-z]+) .*" "\\1" command "${line}")
  let_write(${MANUAL}/man1/tamlo-${command}.1 --manual ${command})
endforeach()
# Pages are installed as Debian has them: packed, without a date.
find_program(GZIP gzip REQUIRED)
file(GLOB pages ${MANUAL}/man1/*.1 ${MANUAL}/man5/*.5)
execute_process(COMMAND ${GZIP} -9nfk ${pages} COMMAND_ERROR_IS_FATAL ANY)
