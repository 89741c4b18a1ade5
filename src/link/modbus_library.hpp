// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <modbus.h>

// libmodbus, loaded when something speaks Modbus: nobody else waits for it.
namespace tamlo::link {

struct ModbusLibrary {
  decltype(&modbus_new_tcp_pi) new_tcp;
  decltype(&modbus_new_rtu) new_rtu;
  decltype(&modbus_set_slave) set_station;
  decltype(&modbus_set_response_timeout) set_timeout;
  decltype(&modbus_connect) connect;
  decltype(&modbus_read_registers) read_holding;
  decltype(&modbus_read_input_registers) read_input;
  decltype(&modbus_close) close;
  decltype(&modbus_free) free;
  decltype(&modbus_strerror) error;
  // Of a server.
  decltype(&modbus_set_socket) set_socket;
  decltype(&modbus_receive) receive;
  decltype(&modbus_reply) reply;
  decltype(&modbus_mapping_new) new_mapping;
  decltype(&modbus_mapping_free) free_mapping;
};

/// Throws io::EnvironmentError where it is missing.
const ModbusLibrary& modbus_library();

}  // namespace tamlo::link
