// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <modbus.h>

#include "tamlo/detail/shared_library.hpp"

// libmodbus, loaded when something speaks Modbus: nobody else waits for it.
namespace tamlo::link {

struct ModbusLibrary {
  tamlo::detail::SharedLibrary file{"libmodbus.so.5", "speaks Modbus", "libmodbus5"};
  TAMLO_LOADED(new_tcp, modbus_new_tcp_pi);
  TAMLO_LOADED(new_rtu, modbus_new_rtu);
  TAMLO_LOADED(set_station, modbus_set_slave);
  TAMLO_LOADED(set_timeout, modbus_set_response_timeout);
  TAMLO_LOADED(connect, modbus_connect);
  TAMLO_LOADED(read_holding, modbus_read_registers);
  TAMLO_LOADED(read_input, modbus_read_input_registers);
  TAMLO_LOADED(close, modbus_close);
  TAMLO_LOADED(free, modbus_free);
  TAMLO_LOADED(error, modbus_strerror);
  // Of a server.
  TAMLO_LOADED(set_socket, modbus_set_socket);
  TAMLO_LOADED(receive, modbus_receive);
  TAMLO_LOADED(reply, modbus_reply);
  TAMLO_LOADED(new_mapping, modbus_mapping_new);
  TAMLO_LOADED(free_mapping, modbus_mapping_free);
};

/// Throws io::EnvironmentError where it is missing.
const ModbusLibrary& modbus_library();

}  // namespace tamlo::link
