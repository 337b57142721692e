# The rooms above the libraries, the tool, the examples and the tests.
find_package(PkgConfig REQUIRED)
pkg_check_modules(GLIB REQUIRED IMPORTED_TARGET glib-2.0 gio-2.0 gthread-2.0)
pkg_check_modules(GSL REQUIRED IMPORTED_TARGET gsl)
pkg_check_modules(GMODULE REQUIRED IMPORTED_TARGET gmodule-2.0)
pkg_check_modules(SNDFILE REQUIRED IMPORTED_TARGET sndfile)
pkg_check_modules(ZLIB REQUIRED IMPORTED_TARGET zlib)
pkg_check_modules(SQLITE REQUIRED IMPORTED_TARGET sqlite3)
pkg_check_modules(SERIALPORT REQUIRED IMPORTED_TARGET libserialport)
pkg_check_modules(JANSSON REQUIRED IMPORTED_TARGET jansson)
pkg_check_modules(NCURSES REQUIRED IMPORTED_TARGET ncursesw)
pkg_check_modules(READLINE REQUIRED IMPORTED_TARGET readline)
find_library(CSV_LIBRARY csv REQUIRED)
find_package(Threads REQUIRED)

# One library a room; a room knows the rooms below it.
function(add_room name)
  cmake_parse_arguments(ROOM "" "" "SOURCES;NEEDS" ${ARGN})
  file(GLOB sources CONFIGURE_DEPENDS ${ROOM_SOURCES})
  add_library(rigpulse_${name} STATIC ${sources})
  target_include_directories(rigpulse_${name} PUBLIC ${PROJECT_SOURCE_DIR} ${PROJECT_SOURCE_DIR}/core)
  target_compile_definitions(rigpulse_${name} PRIVATE _XOPEN_SOURCE=700)
  target_link_libraries(rigpulse_${name} PUBLIC rigpulse_flags ${ROOM_NEEDS})
  set_target_properties(rigpulse_${name} PROPERTIES C_EXTENSIONS OFF)
endfunction()

add_room(files SOURCES files/*.c NEEDS PkgConfig::GLIB ${CSV_LIBRARY})
tell_fuzzers(rigpulse_files)
add_room(mechanisms SOURCES sim/mechanisms/*.c NEEDS rigpulse_core m)
add_room(ports SOURCES ports/*.c NEEDS rigpulse_core m)
add_room(serial SOURCES ports/serial/*.c NEEDS rigpulse_ports rigpulse_lang PkgConfig::GLIB PkgConfig::JANSSON
         PkgConfig::SERIALPORT ${CSV_LIBRARY} Threads::Threads)
add_room(sim SOURCES sim/*.c sim/sensors/*.c NEEDS rigpulse_mechanisms rigpulse_ports rigpulse_lang rigpulse_files PkgConfig::GLIB
         PkgConfig::GSL PkgConfig::GMODULE PkgConfig::JANSSON)
target_include_directories(rigpulse_sim PRIVATE ${SNDFILE_INCLUDE_DIRS})
add_room(explain SOURCES explain/*.c NEEDS rigpulse_core PkgConfig::GLIB)
leave_plain(rigpulse_explain)
add_room(runtime SOURCES runtime/*.c NEEDS rigpulse_explain rigpulse_sim rigpulse_serial PkgConfig::JANSSON PkgConfig::ZLIB
         Threads::Threads)
add_room(analysis SOURCES analysis/*.c analysis/figures/*.c analysis/exports/*.c NEEDS rigpulse_runtime PkgConfig::GSL
         PkgConfig::SQLITE PkgConfig::GMODULE)
target_include_directories(rigpulse_analysis PRIVATE ${SNDFILE_INCLUDE_DIRS})

# All of the tool but its main() is compiled once: for it, and for the fuzzer of its dialogues.
file(GLOB TOOL_SOURCES CONFIGURE_DEPENDS tool/*.c tool/*/*.c)
list(FILTER TOOL_SOURCES EXCLUDE REGEX "tool/main\\.c$")
add_library(rigpulse_tool OBJECT ${TOOL_SOURCES})
tell_fuzzers(rigpulse_tool)
set_target_properties(rigpulse_tool PROPERTIES C_EXTENSIONS OFF)
target_link_libraries(rigpulse_tool PUBLIC rigpulse_analysis PkgConfig::READLINE PkgConfig::NCURSES Threads::Threads)
leave_plain(rigpulse_tool)
add_executable(rigpulse tool/main.c)
set_target_properties(rigpulse PROPERTIES C_EXTENSIONS OFF)
target_link_libraries(rigpulse PRIVATE rigpulse_tool)

# Half of what the compiler reads of these is GLib. Elsewhere every file has to say what it includes.
if(RIGPULSE_SANITIZE)
  foreach(room sim runtime analysis tool)
    target_precompile_headers(rigpulse_${room} PRIVATE <glib.h>)
  endforeach()
endif()

# The tool looks for its examples beside itself, or where they are installed.
if(NOT PROJECT_BINARY_DIR STREQUAL PROJECT_SOURCE_DIR)
  file(CREATE_LINK ${PROJECT_SOURCE_DIR}/examples ${PROJECT_BINARY_DIR}/examples SYMBOLIC)
endif()
if(RIGPULSE_TESTS)
  pkg_check_modules(CMOCKA REQUIRED IMPORTED_TARGET cmocka)
  pkg_check_modules(VTERM REQUIRED IMPORTED_TARGET vterm)
  enable_testing()
  add_subdirectory(examples examples-in-c)
  add_subdirectory(tests)
  if(NOT RIGPULSE_SANITIZE) # whose times say nothing
    add_subdirectory(perf)
  endif()
endif()
