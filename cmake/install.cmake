# What an installation has, beside the programs: what desktops, shells and people read. All of it is made from
# what the programs themselves say, and from the drawings; nothing is fetched.
set(MELLOW_HOME "https://mellow-lever.example.net" CACHE STRING "Where the project is to be found, for the catalogue of programs")
set(MELLOW_ZSH_FOLDER "${CMAKE_INSTALL_DATADIR}/zsh/site-functions" CACHE STRING "Where zsh looks for completions")
set(made ${CMAKE_BINARY_DIR}/made)

# Helpers stand apart from what is on the path.
install(TARGETS mellow-lever mellow-lever-cli)
install(TARGETS mellow-lever-live mellow-lever-paper mellow-lever-names DESTINATION ${CMAKE_INSTALL_LIBEXECDIR}/mellow-lever)

# Man pages and completions.
add_executable(mellow-lever-words src/tools/words_main.cpp src/tools/words.cpp src/app/frame/wishes.cpp)
target_link_libraries(mellow-lever-words PRIVATE mellow-warnings mellow-core mellow-version CLI11::CLI11 Qt6::Core)
set(word_files mellow-lever.1 mellow-lever-cli.1 bash/mellow-lever bash/mellow-lever-cli zsh/_mellow-lever zsh/_mellow-lever-cli)
list(TRANSFORM word_files PREPEND ${made}/words/)
add_custom_command(OUTPUT ${word_files}
  COMMAND mellow-lever-words ${MELLOW_DATE} ${CMAKE_SOURCE_DIR}/packaging/man ${made}/words
  DEPENDS mellow-lever-words packaging/man/mellow-lever.prose packaging/man/mellow-lever-cli.prose VERBATIM)
install(FILES ${made}/words/mellow-lever.1 ${made}/words/mellow-lever-cli.1 DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
install(FILES ${made}/words/bash/mellow-lever ${made}/words/bash/mellow-lever-cli
  DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions)
install(FILES ${made}/words/zsh/_mellow-lever ${made}/words/zsh/_mellow-lever-cli DESTINATION ${MELLOW_ZSH_FOLDER})

# Icons: the drawings, and pictures of them at the sizes that desktops ask for.
find_program(RSVG_CONVERT rsvg-convert REQUIRED)
set(icons ${CMAKE_SOURCE_DIR}/data/icons)
set(pictures "")
foreach(size 16 22 24 32 48 64 128 256 512)
  foreach(icon apps/mellow-lever mimetypes/application-x-mellow-lever-ensemble mimetypes/application-x-mellow-lever-part)
    get_filename_component(name ${icon} NAME)
    get_filename_component(kind ${icon} DIRECTORY)
    set(picture ${made}/icons/${size}x${size}/${kind}/${name}.png)
    add_custom_command(OUTPUT ${picture}
      COMMAND ${CMAKE_COMMAND} -E make_directory ${made}/icons/${size}x${size}/${kind}
      COMMAND ${RSVG_CONVERT} -w ${size} -h ${size} -o ${picture} ${icons}/${name}.svg
      DEPENDS ${icons}/${name}.svg VERBATIM)
    list(APPEND pictures ${picture})
    install(FILES ${picture} DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/${size}x${size}/${kind})
  endforeach()
endforeach()
install(FILES ${icons}/mellow-lever.svg DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/scalable/apps)
install(FILES ${icons}/mellow-lever-symbolic.svg DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/symbolic/apps)
install(FILES ${icons}/application-x-mellow-lever-ensemble.svg ${icons}/application-x-mellow-lever-part.svg
  DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/scalable/mimetypes)
add_custom_target(mellow-lever-made ALL DEPENDS ${word_files} ${pictures})

# The menu, the kinds of files, the catalogue of programs.
configure_file(data/desktop/mellow-lever.metainfo.xml.in ${made}/net.example.mellow_lever.metainfo.xml @ONLY)
install(FILES data/desktop/mellow-lever.desktop DESTINATION ${CMAKE_INSTALL_DATADIR}/applications)
install(FILES data/desktop/mellow-lever.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/mime/packages)
install(FILES ${made}/net.example.mellow_lever.metainfo.xml DESTINATION ${CMAKE_INSTALL_DATADIR}/metainfo)

# For people who want to look inside: the demo and the library are in the programs too.
install(DIRECTORY data/demo data/library DESTINATION ${CMAKE_INSTALL_DATADIR}/mellow-lever)
install(FILES LICENSE CHANGELOG.md docs/other-machines.md docs/expressive-keyboards.md docs/ensemble.schema.json
  DESTINATION ${CMAKE_INSTALL_DOCDIR})
