# SPDX-License-Identifier: Apache-2.0
# Lets TOOL write its pages into MANUAL and its completions into COMPLETION.
file(MAKE_DIRECTORY ${MANUAL} ${COMPLETION})
function(let_write file)
  execute_process(COMMAND ${TOOL} ${ARGN} OUTPUT_FILE ${file} COMMAND_ERROR_IS_FATAL ANY)
endfunction()
foreach(shell bash zsh fish)
  let_write(${COMPLETION}/tamlo.${shell} --completion ${shell})
endforeach()
find_program(GZIP gzip REQUIRED)
# Pages are installed as Debian has them: packed, without a date.
function(let_write_packed file)
  let_write(${file} ${ARGN})
  execute_process(COMMAND ${GZIP} -9nf ${file} COMMAND_ERROR_IS_FATAL ANY)
endfunction()
let_write(${MANUAL}/tamlo.1 --manual)
# The commands are those that the page of the tool lists.
file(STRINGS ${MANUAL}/tamlo.1 listed REGEX "^[.]BR tamlo")
foreach(line IN LISTS listed)
  string(REGEX REPLACE "^[.]BR tamlo[^a-z]+([a-z]+) .*" "\\1" command "${line}")
  let_write_packed(${MANUAL}/tamlo-${command}.1 --manual ${command})
endforeach()
let_write_packed(${MANUAL}/tamlo.1 --manual)
