# SPDX-License-Identifier: Apache-2.0
# tamlo_read_page(VARIABLE NAME): the text of share/page/NAME.html, with each look and script in the place that names it.
function(tamlo_read_page variable name)
  set(pages ${PROJECT_SOURCE_DIR}/share/page)
  file(READ ${pages}/${name}.html text)
  set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${pages}/${name}.html)
  foreach(part palette.css charts.css tune.css charts.js form.js tune.js)
    file(READ ${pages}/${part} own)
    string(REPLACE "/* ${part} */" "${own}" text "${text}")
    set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${pages}/${part})
  endforeach()
  set(${variable} "${text}" PARENT_SCOPE)
endfunction()
